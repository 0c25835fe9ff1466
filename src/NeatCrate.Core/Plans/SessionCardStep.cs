using NeatCrate.Core.Media;
using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Plans;

/// <summary>The step that states in a session's card which document is current.</summary>
public static class SessionCardStep
{
    /// <summary>Makes the step.</summary>
    /// <param name="folder">Absolute path of the session folder.</param>
    /// <param name="documentName">File name of the document, at the top of it.</param>
    /// <exception cref="FaultException">Something that is no file stands in the card's place (<see cref="FaultCode.SessionCardInTheWay"/>).</exception>
    public static PlanStep State(string folder, string documentName)
    {
        var (path, content) = (SessionCard.PathIn(folder), SessionCard.Stating(folder, documentName));
        return FileFacts.OfName(path) switch
        {
            null => MakeFileStep.Write(path, "states which document is current", content),
            { IsRegular: true } => new ReplaceDocumentStep(path, "states which document is current", content, ByteIdentity.OfFile(path)),
            _ => throw new FaultException(FaultCode.SessionCardInTheWay, path),
        };
    }
}
