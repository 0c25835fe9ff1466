using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;

namespace NeatCrate.Core.SetUp;

/// <summary>Finds the folder that a stray document belongs in, and plans how it gets back there.</summary>
public static class BringHomePlanner
{
    /// <summary>The folders in which everything is that a document points at; vaults and outboxes, which hold copies, are left out.</summary>
    /// <param name="document">The stray document.</param>
    /// <param name="sessionFolders">Folders of all known sessions, looked at first.</param>
    /// <param name="shelves">Where to look else.</param>
    /// <param name="cancel">Stops between two folders.</param>
    public static IEnumerable<string> Homes(FoundDocument document, IEnumerable<string> sessionFolders, IEnumerable<Shelf> shelves, CancellationToken cancel = default)
    {
        ArgumentNullException.ThrowIfNull(document);
        var elsewhere = shelves.Where(s => s.IsConnected && s.Kind is not (ShelfKind.Vault or ShelfKind.Outbox)).SelectMany(s => ShelfWalk.Folders(s.Root, null, cancel));
        return sessionFolders.Concat(elsewhere).Distinct().Where(document.BelongsIn);
    }

    /// <summary>Makes the plan: moved on one drive, copied from another one.</summary>
    /// <param name="sessionId">The session that the home is known as; null when it is known as none.</param>
    /// <param name="path">Absolute path of the stray document.</param>
    /// <param name="home">Absolute path of the folder that it belongs in.</param>
    public static Plan Plan(Guid? sessionId, string path, string home)
    {
        var name = Path.GetFileName(path);
        var destination = Path.Combine(home, FreeNames.In(home).Claim(name));
        var state = FileState.Of(path);
        var there = SessionFolder.Documents(home).FirstOrDefault(d => FileFacts.Of(d)?.Bytes == state.Bytes && ByteIdentity.OfFile(d) == ByteIdentity.OfFile(path));
        var sameDrive = FileFacts.AreOnOneDrive(path, home);
        var stays = SessionCard.Stated(home) is { } stated && File.Exists(Path.Combine(home, stated));
        var becomesCurrent = !stays && SessionFolder.Documents(home).All(d => When(d) < When(path));
        return new Plan
        {
            Id = Guid.NewGuid(),
            Kind = PlanKind.BringHome,
            SessionId = sessionId,
            Sentence = $"{(sameDrive ? "Move" : "Copy")} '{name}' to '{Path.GetFileName(home)}', where everything is that it points at"
                + (becomesCurrent ? "; it is the newest there, and so the current document" : "; the current document there stays the current one") + ".",
            // What is only copied stays, and so does its folder, which may be one that can only be read.
            WritableRoots = sameDrive ? [Path.GetDirectoryName(path)!, home] : [home],
            Steps = there is not null ? []
                : [sameDrive ? new MoveFileStep(destination, "home to its media", path, state) : MakeFileStep.Copy(destination, "home to its media; it stays here too", path, state)],
            Remarks = Path.GetFileName(destination) == name ? [] : [new Fault(FaultCode.DocumentRenamed) { Name = name, Other = Path.GetFileName(destination) }],
            Refusals = there is null ? [] : [new Fault(FaultCode.DocumentThereAlready) { Name = Path.GetFileName(there) }],
        };
    }

    private static DateTime When(string document) => DatedName.TimeOf(Path.GetFileNameWithoutExtension(document), FileState.Of(document).ModifiedUtc);
}
