using NeatCrate.Core.Inventory;
using NeatCrate.Core.Plans;

namespace NeatCrate.Core.SetUp;

/// <summary>Plans that another document of a session is stated as the current one. The documents themselves stay as they are.</summary>
public static class CurrentDocumentPlanner
{
    /// <summary>Makes the plan.</summary>
    /// <param name="sessionId">The session.</param>
    /// <param name="inventory">Its inventory.</param>
    /// <param name="documentName">File name of the document, at the top of the session folder.</param>
    public static Plan Plan(Guid sessionId, SessionInventory inventory, string documentName)
    {
        ArgumentNullException.ThrowIfNull(inventory);
        ArgumentNullException.ThrowIfNull(documentName);
        var isThere = inventory.Documents.Any(d => d.Path == Path.Combine(inventory.Folder, documentName));
        return new Plan
        {
            Id = Guid.NewGuid(),
            Kind = PlanKind.CurrentDocument,
            SessionId = sessionId,
            Sentence = $"Make '{Path.GetFileNameWithoutExtension(documentName)}' the current version; no document and no sound is changed.",
            WritableRoots = [inventory.Folder],
            Steps = isThere ? [SessionCardStep.State(inventory.Folder, documentName)] : [],
            Refusals = isThere ? [] : [new Fault(FaultCode.DocumentGone) { Path = Path.Combine(inventory.Folder, documentName) }],
        };
    }
}
