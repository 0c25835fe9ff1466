using NeatCrate.Core.Media;
using NeatCrate.Core.SetUp;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.SetUp;

/// <summary>A session folder that was moved or renamed is recognised.</summary>
public sealed class SessionRecognitionTests : IDisposable
{
    private readonly SessionFixture _session = new();

    public SessionRecognitionTests() => _session.Save();

    public void Dispose() => _session.Dispose();

    private IReadOnlyList<RecognisedSession> Look(KnownSession lost, params string[] known) =>
        SessionRecognition.Look([lost], known.ToHashSet(), _session.Shelves, TestContext.Current.CancellationToken);

    private KnownSession Lost(bool byIdentity) => new(
        Guid.NewGuid(), _session.Folder, byIdentity ? _session.SessionId : null, ByteIdentity.OfFile(_session.DocumentPath, null, TestContext.Current.CancellationToken));

    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public void ByTheIdentityInTheDocumentOrByItsBytes(bool byIdentity)
    {
        var lost = Lost(byIdentity);
        var moved = Path.Combine(_session.Drive, "2026", "October", "The Net Mender");
        Directory.CreateDirectory(Path.GetDirectoryName(moved)!);
        Directory.Move(_session.Folder, moved);
        Assert.Equal([moved], Assert.Single(Look(lost)).Folders);
        Assert.Empty(Look(lost, moved));
        // Worked on since: only the identity still tells.
        File.AppendAllText(Path.Combine(moved, SessionFixture.Name + ".otio"), "\n");
        Assert.Equal(byIdentity ? 1 : 0, Look(lost).Count);
    }

    [Fact]
    public void TwoCopiesAreBothShownAndTheFoldersBelowASessionAreItsOwn()
    {
        var lost = Lost(true);
        Tree.Copy(_session.Folder, Path.Combine(_session.Drive, "b"));
        Tree.Copy(_session.Folder, Path.Combine(_session.Drive, "b", "Older documents"));
        Directory.Move(_session.Folder, Path.Combine(_session.Drive, "a"));
        Assert.Equal(["a", "b"], Assert.Single(Look(lost)).Folders.Select(f => Path.GetFileName(f)));
    }

    [Fact]
    public void ACopyInTheOutboxIsNotTheSession()
    {
        var lost = Lost(true);
        Directory.Move(_session.Folder, Path.Combine(_session.Outbox, "sent"));
        Assert.Empty(Look(lost));
    }

    /// <summary>A session in the document of another program has no identity of its own: it is told by the bytes of that, and a copy of it below is no second one.</summary>
    [Fact]
    public void ASessionOfAnotherProgramIsRecognisedByItsDocument()
    {
        var folder = Path.Combine(_session.Drive, "261110 Breakwater");
        Directory.CreateDirectory(Path.Combine(folder, "Auto-saves"));
        var document = Path.Combine(folder, "Breakwater.desk");
        File.WriteAllText(document, "<desk><sound place=\"Audio/Great 01.wav\"/></desk>");
        File.Copy(document, Path.Combine(folder, "Auto-saves", "Breakwater.desk"));
        var lost = new KnownSession(Guid.NewGuid(), folder, null, ByteIdentity.OfFile(document, null, TestContext.Current.CancellationToken));
        var moved = Path.Combine(_session.Drive, "2026", "The breakwater");
        Directory.CreateDirectory(Path.GetDirectoryName(moved)!);
        Directory.Move(folder, moved);
        Assert.Equal([moved], Assert.Single(Look(lost)).Folders);
        // As large, and another document.
        File.WriteAllText(Path.Combine(moved, "Breakwater.desk"), "<desk><sound place=\"Audio/Great 02.wav\"/></desk>");
        Directory.Delete(Path.Combine(moved, "Auto-saves"), recursive: true);
        Assert.Empty(Look(lost));
    }

    /// <summary>Kept saves of a session, in the folder or at the second place, hold its identity and are not the session.</summary>
    [Fact]
    public void KeptSavesAreNotTheSession()
    {
        var lost = Lost(true);
        var moved = Path.Combine(_session.Drive, "moved");
        Directory.Move(_session.Folder, moved);
        foreach (var folder in new[] { Path.Combine(moved, "Document backups"), Path.Combine(_session.Card, "Neat Crate document backups", SessionFixture.Name) })
        {
            Directory.CreateDirectory(folder);
            File.Copy(Path.Combine(moved, SessionFixture.Name + ".otio"), Path.Combine(folder, SessionFixture.Name + " 2026-10-14_200000.otio"));
        }
        Assert.Equal([moved], Assert.Single(Look(lost)).Folders);
        File.Delete(Path.Combine(moved, SessionFixture.Name + ".otio"));
        Assert.Empty(Look(lost));
    }
}
