using System.Runtime.InteropServices;
using NeatCrate.Core.Faults;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Tests.Inventory;

/// <summary>What stands in a folder that cannot be opened is not known, and nothing else may be said of it.</summary>
public sealed class FoldersThatCannotBeOpenedTests : IDisposable
{
    // Whom the system gives no rights to what is another's (nobody).
    private const uint Nobody = 65534;

    private readonly SessionFixture _session = new();

    public FoldersThatCannotBeOpenedTests()
    {
        _session.Place(SessionFixture.Sound(_session.Inside("Audio", "Cello 01.wav"), 4800)).Save();
        SessionFixture.Sound(_session.Inside("Audio", "More", "Cello 02.wav"), 400);
        // The test's own folders are nobody else's.
        for (var above = _session.Folder; Path.GetDirectoryName(above) is { Length: > 1 } parent; above = parent)
        {
            File.SetUnixFileMode(above, (UnixFileMode)0b111_101_101);
        }
    }

    public void Dispose() => _session.Dispose();

    [DllImport("libc", EntryPoint = "setfsuid")]
    [DefaultDllImportSearchPaths(DllImportSearchPath.SafeDirectories)]
    private static extern int SetUserOfThread(uint user);

    /// <summary>Runs something as a user without rights: setfsuid(2), which holds for one thread.</summary>
    private static void AsNobody(Action run)
    {
        Assert.SkipUnless(Environment.UserName == "root", "Becoming somebody else needs root.");
        Exception? failed = null;
        var thread = new Thread(() =>
        {
            _ = SetUserOfThread(Nobody);
            try
            {
                run();
            }
            catch (Exception e)
            {
                failed = e;
            }
        });
        thread.Start();
        thread.Join();
        if (failed is not null)
        {
            throw new InvalidOperationException(failed.Message, failed);
        }
    }

    [Fact]
    public void ASessionWithAFolderThatCannotBeOpenedIsNotInOrder()
    {
        var (shut, now) = (_session.Inside("Audio", "More"), DateTime.UtcNow);
        var kept = new KeptInventory(_session.Folder, new HeaderCache());
        SessionStatus Status() => SessionStatus.Of(kept.Look(null, [], LookDepth.Folders, now, TestContext.Current.CancellationToken));
        AsNobody(() =>
        {
            Assert.Equal(Attention.InOrder, Status().Attention);
            Assert.False(kept.Notice(now.AddSeconds(20), 0).Any);
        });
        File.SetUnixFileMode(shut, (UnixFileMode)0b111_000_000);
        AsNobody(() =>
        {
            Assert.True(kept.Notice(now.AddSeconds(40), 0).Any);
            var status = Status();
            Assert.Equal((Attention.Unreadable, "", FaultCode.CannotBeLookedAt, shut), (status.Attention, status.Sentence, status.Problem!.Code, status.Problem.Path));
            // It stays so without being news each second.
            var revision = kept.Revision;
            Assert.False(kept.Notice(now.AddSeconds(60), 0).Any);
            Assert.Equal((Attention.Unreadable, revision), (Status().Attention, kept.Revision));
        });
        // The drive reads it again, though nothing about the folder is otherwise: it is tried each time.
        Assert.True(kept.Notice(now.AddSeconds(80), 0).Any);
        Assert.Equal(Attention.InOrder, Status().Attention);
    }

    /// <summary>An empty folder becomes shut: no file went, and it is news all the same.</summary>
    [Fact]
    public void AFolderOfNothingThatBecomesShutIsNews()
    {
        var (shut, now) = (Directory.CreateDirectory(_session.Inside("Empty")).FullName, DateTime.UtcNow);
        var kept = new KeptInventory(_session.Folder, new HeaderCache());
        SessionInventory Look() => kept.Look(null, [], LookDepth.Folders, now, TestContext.Current.CancellationToken);
        Assert.DoesNotContain(Look().Remarks, r => r.Code == FaultCode.CannotBeLookedAt);
        File.SetUnixFileMode(shut, (UnixFileMode)0b111_000_000);
        AsNobody(() =>
        {
            Assert.True(kept.Notice(now.AddSeconds(20), 0).Any);
            Assert.Contains(Look().Remarks, r => r.Code == FaultCode.CannotBeLookedAt && r.Path == shut);
        });
    }
}
