using NeatCrate.Core.Plans;
using NeatCrate.Core.Record;
using NeatCrate.Core.Tests.Plans;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Record;

public sealed class MirrorPlannerTests : IDisposable
{
    private readonly SessionFixture _session = new();

    public void Dispose() => _session.Dispose();

    private MirrorGap Gap(string name) => new(_session.Inside("Audio", name), Path.Combine(MirrorPlanner.FolderFor(_session.Shelves[2], _session.Folder), name));

    [Fact]
    public void TheGapIsMadeGoodAndHalfATakeIsKeptUnderAnotherName()
    {
        SessionFixture.Sound(_session.Inside("Audio", "Cello 01.wav"));
        SessionFixture.Sound(_session.Inside("Audio", "Cello 02.wav"), seed: 2);
        var (half, none) = (Gap("Cello 01.wav"), Gap("Cello 02.wav"));
        Directory.CreateDirectory(_session.Card);
        Directory.CreateDirectory(Path.GetDirectoryName(half.Mirror)!);
        File.WriteAllBytes(half.Mirror, File.ReadAllBytes(half.Take)[..3000]);
        var before = Tree.Of(_session.Root);
        var plan = MirrorPlanner.Plan(_session.SessionId, _session.Shelves[2], [half, none]);
        var journal = new MemoryJournal();
        journal.Apply(plan);
        var after = Tree.Of(_session.Card);
        var folder = $"{MirrorPlanner.Folder}/{SessionFixture.Name}";
        Assert.Equal(Tree.Of(_session.Inside("Audio")).Values, new[] { after[$"{folder}/Cello 01.wav"], after[$"{folder}/Cello 02.wav"] });
        Assert.StartsWith("3000 bytes", after[$"{folder}/Cello 01 cut off.wav"], StringComparison.Ordinal);
        journal.Apply(UndoPlanner.Plan(plan, journal.Records(plan)));
        Assert.Equal(before, Tree.Of(_session.Root));
        CutOffs.AssertBeforeOrAfter(_session.Root, new MemoryJournal(), MirrorPlanner.Plan(_session.SessionId, _session.Shelves[2], [half, none]));
    }

    [Fact]
    public void WhileTheMirrorIsAwayNothingCanBeMadeGood()
    {
        SessionFixture.Sound(_session.Inside("Audio", "Cello 01.wav"));
        var plan = MirrorPlanner.Plan(_session.SessionId, _session.Shelves[3], [Gap("Cello 01.wav")]);
        Assert.Equal((FaultCode.ShelfAway, "Old laptop"), Assert.Single(plan.Refusals) is var f ? (f.Code, f.Name) : default);
        Assert.Empty(plan.Steps);
    }
}
