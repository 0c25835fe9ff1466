using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Purge;
using NeatCrate.Core.Sessions;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Purge;

/// <summary>What another program's document names nowhere: never proposed, set aside by hand and one at a time, and never deleted while it is the only one.</summary>
public sealed class PurgeByHandTests : IDisposable
{
    private readonly PurgeFixture _purge = new();

    public void Dispose() => _purge.Session.Dispose();

    private SessionFixture Session => _purge.Session;

    private static string Take(int n) => $"Audio/Cello {n:00}.wav";

    /// <summary>A session with so many takes, of which the document names so many.</summary>
    private void Make(int takes, int named, string more = "")
    {
        for (var n = 1; n <= takes; n++)
        {
            _purge.Sound(Take(n), n);
        }
        Save(named, more);
    }

    private void Save(int named, string more = "") =>
        File.WriteAllText(Session.Inside("Net Mender.loft"), string.Concat(Enumerable.Range(1, named).Select(n => $"<s f=\"{Take(n)}\"/>\n")) + more);

    /// <summary>At least 95 of a hundred of the others have to be named; what is open is not.</summary>
    [Theory]
    [InlineData(21, 20, true)]
    [InlineData(21, 19, true)]
    [InlineData(21, 18, false)]
    [InlineData(2, 1, true)]
    [InlineData(1, 0, false)]
    public void NearlyAllOthersHaveToBeNamed(int takes, int named, bool isByHand)
    {
        Make(takes, named);
        var item = _purge.Item(Take(takes));
        Assert.Equal(isByHand ? PurgeGroup.NamedNowhere : null, item.Group);
        if (isByHand)
        {
            Assert.True(item.IsOnlyByName);
            Assert.Equal([UseReason.NamedNowhere], item.Reasons.Select(r => r.Why));
        }
        Assert.Equal(isByHand ? [] : [FaultCode.UseCannotBeKnown], _purge.SetAside(Take(takes)).Refusals.Select(r => r.Code));
    }

    /// <summary>A name that several files have is open: none of them counts as named, and none of them may go.</summary>
    [Fact]
    public void WhatIsOpenIsNotNamed()
    {
        Make(21, 19, "<s f=\"swell.wav\"/>");
        Assert.Equal(PurgeGroup.NamedNowhere, _purge.Item(Take(21)).Group);
        _purge.Sound("Audio/swell.wav", 40);
        _purge.Sound("Old/swell.wav", 41);
        Assert.All([Take(21), "Audio/swell.wav", "Old/swell.wav"], f => Assert.Null(_purge.Item(f).Group));
    }

    [Fact]
    public void ItIsSetAsideAndGoesBackAndNoDocumentIsTouched()
    {
        Make(21, 20);
        var before = Tree.Of(Session.Folder);
        var plan = _purge.SetAside(Take(21));
        Assert.Equal([FaultCode.MayBeUsedAllTheSame], plan.Remarks.Select(r => r.Code));
        Assert.Equal("Set aside 1 file, 14 kB (named nowhere); nothing is deleted.", plan.Sentence);
        _purge.Apply(plan);
        Assert.Equal(FileUse.SetAside, _purge.UseOf("Set aside/" + Take(21)));
        _purge.Apply(_purge.PutBack());
        Assert.Equal(before, Tree.Of(Session.Folder));
    }

    /// <summary>One at a time, and nothing else with it.</summary>
    [Fact]
    public void OneAtATime()
    {
        Make(42, 40);
        File.WriteAllText(Session.Inside("Thumbs.db"), "x");
        Assert.Empty(_purge.SetAside(Take(41)).Refusals);
        Assert.Equal([FaultCode.OneAtATime], _purge.SetAside(Take(41), Take(42)).Refusals.Select(r => r.Code));
        Assert.Equal([FaultCode.OneAtATime], _purge.SetAside(Take(41), "Thumbs.db").Refusals.Select(r => r.Code));
        Assert.Equal([FaultCode.UseCannotBeKnown], _purge.SetAside("Thumbs.db").Refusals.Select(r => r.Code));
        Assert.Equal([FaultCode.UseCannotBeKnown], _purge.SetAside(Take(1)).Refusals.Select(r => r.Code));
    }

    /// <summary>What a kept save names, another session plays, or a recorder writes stays; so does all beside a document that is cut off.</summary>
    [Fact]
    public void WhatAnythingElseUsesStays()
    {
        Make(21, 20);
        _purge.KeptSaves = [(Session.Inside(Take(21).Split('/')), PurgeFixture.Now)];
        Assert.Null(_purge.Item(Take(21)).Group);
        _purge.KeptSaves = [];
        _purge.Growing.Add(Session.Inside(Take(21).Split('/')));
        Assert.Null(_purge.Item(Take(21)).Group);
        _purge.Growing.Clear();
        Assert.NotNull(_purge.Item(Take(21)).Group);
        File.WriteAllBytes(Session.Inside("Other.skiff"), [.. "PK\u0003\u0004"u8, .. "Audio/Cello 01.wav"u8]);
        Assert.Null(_purge.Item(Take(21)).Group);
    }

    /// <summary>What is named once the plan was made stays, whatever it was when the plan was made.</summary>
    [Fact]
    public void ASaveThatNamesItEndsThePlan()
    {
        Make(21, 20);
        var plan = _purge.SetAside(Take(21));
        Assert.Empty(_purge.Refusals(plan));
        Save(21);
        Assert.NotEmpty(_purge.Refusals(plan));
    }

    /// <summary>It is deleted only where a backup holds it; so is whatever else was set aside in such a session.</summary>
    [Fact]
    public void NothingIsDeletedWithoutABackup()
    {
        Make(21, 20);
        _purge.Apply(_purge.SetAside(Take(21)));
        Plan Empty(bool isHeld) => HeldPlanner.Empty(new HeldRequest(Session.SessionId, _purge.World().Inventory), new FreshIdentities(), (_, _) => isHeld, null, TestContext.Current.CancellationToken);
        var refused = Empty(false);
        Assert.Equal((FaultCode.OnlyWithABackup, 0), (Assert.Single(refused.Refusals).Code, refused.Steps.Length));
        // Its document is gone meanwhile: that it was only not named is remembered.
        File.Delete(Session.Inside("Net Mender.loft"));
        Session.Save();
        Assert.Equal(FaultCode.OnlyWithABackup, Assert.Single(Empty(false).Refusals).Code);
        _purge.Apply(Empty(true));
        Assert.False(Directory.Exists(Session.Inside(HoldingPlace.FolderName)));
    }

    /// <summary>What is no sound needs no backup to go.</summary>
    [Fact]
    public void WhatIsNoSoundGoes()
    {
        Session.Save();
        File.WriteAllText(Session.Inside("Thumbs.db"), "x");
        _purge.Apply(_purge.SetAside("Thumbs.db"));
        Make(3, 3);
        Assert.Empty(HeldPlanner.Empty(new HeldRequest(Session.SessionId, _purge.World().Inventory), new FreshIdentities(), (_, _) => false, null, TestContext.Current.CancellationToken).Refusals);
    }

    /// <summary>What was set aside as a stray is as unsure once another program works in the session.</summary>
    [Fact]
    public void WhatWasSetAsideBeforeIsAsUnsure()
    {
        Session.Save();
        _purge.Sound("Audio/drip.wav", 1);
        _purge.Apply(_purge.SetAside("Audio/drip.wav"));
        Make(3, 3);
        Assert.Equal(
            FaultCode.OnlyWithABackup,
            Assert.Single(HeldPlanner.Empty(new HeldRequest(Session.SessionId, _purge.World().Inventory), new FreshIdentities(), (_, _) => false, null, TestContext.Current.CancellationToken).Refusals).Code);
    }
}
