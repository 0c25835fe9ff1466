using NeatCrate.App.Sessions;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Record;
using NeatCrate.Store;
using NeatCrate.Testing;

namespace NeatCrate.App.Tests.Record;

public sealed class MirrorLedgerTests : IDisposable
{
    private readonly TempFolder _temp = new();
    private readonly StoreFiles _files;
    private readonly MirrorLedger _ledger;
    private readonly Guid _session = Guid.NewGuid();
    private readonly Guid _shelf = Guid.NewGuid();

    public MirrorLedgerTests()
    {
        _files = StoreFiles.Open(_temp.Folder("data"));
        _ledger = new MirrorLedger(_files);
    }

    public void Dispose()
    {
        _files.Dispose();
        _temp.Dispose();
    }

    private MirrorGap Take(string name, string? take = "sound", string? mirror = "sound")
    {
        var gap = new MirrorGap(_temp.At("session", name), _temp.At("mirror", name));
        foreach (var (path, content) in new[] { (gap.Take, take), (gap.Mirror, mirror) })
        {
            if (content is not null)
            {
                File.WriteAllText(path, content);
            }
        }
        return gap;
    }

    [Fact]
    public void WhatIsTheSameIsVerifiedAndEverythingElseIsAGap()
    {
        _ledger.Begin(_session, _shelf, [Take("same"), Take("half", mirror: "sou"), Take("none", mirror: null), Take("other", mirror: "SOUND")]);
        Assert.Empty(_ledger.Gaps(_session));
        Assert.Equal(["half", "none", "other"], _ledger.Verify(_session, TestContext.Current.CancellationToken).Order());
        Assert.Equal(1, _ledger.Verified(_session));
        Assert.Equal(["half", "none", "other"], _ledger.Gaps(_session).Select(g => Path.GetFileName(g.Gap.Take)).Order());
        Assert.Equal([(_session, 3)], _ledger.GapsOn(_shelf));
        Assert.Empty(_ledger.GapsOn(Guid.NewGuid()));
        // What was looked at is not looked at again.
        Assert.Empty(_ledger.Verify(null, TestContext.Current.CancellationToken));
    }

    [Fact]
    public void APlanThatCopiesMakesGoodAndItsUndoOpensAgain()
    {
        var gap = Take("none", mirror: null);
        _ledger.Begin(_session, _shelf, [gap]);
        _ledger.Verify(null, TestContext.Current.CancellationToken);
        Plan With(PlanStep step) => new() { Id = Guid.NewGuid(), Kind = PlanKind.Mirror, Sentence = "", WritableRoots = [], Steps = [step] };
        _ledger.After(With(MakeFileStep.Copy(gap.Mirror, "", gap.Take, FileState.Of(gap.Take))));
        Assert.Equal((0, 1), (_ledger.Gaps(_session).Count, _ledger.Verified(_session)));
        _ledger.After(With(new RemoveCopyStep(gap.Mirror, "", default, gap.Take)));
        Assert.Equal((1, 0), (_ledger.Gaps(_session).Count, _ledger.Verified(_session)));
    }

    [Fact]
    public void AFreeNameIsWrittenDownAnewWhoeverHadItBefore()
    {
        _ledger.Begin(_session, _shelf, [Take("same")]);
        _ledger.Begin(_session, _shelf, [Take("same")]);
        _ledger.Verify(null, TestContext.Current.CancellationToken);
        Assert.Equal(1, _ledger.Verified(_session));
    }
}
