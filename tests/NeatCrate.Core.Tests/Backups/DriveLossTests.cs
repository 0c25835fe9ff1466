using NeatCrate.Core.Backups;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Vault;

namespace NeatCrate.Core.Tests.Backups;

/// <summary>What a drive takes along when it dies: each file counts once, and what a vault elsewhere holds comes back.</summary>
public sealed class DriveLossTests
{
    private const string Drive = "attic";

    private static VaultHolding Vault(string drive) => VaultHolding.Of(Guid.NewGuid(), drive, false, [], new HashSet<ContentHash>()) with { Drive = drive };

    private static SafeFile File(string path, string drive, Standing standing = Standing.Inside, FileUse use = FileUse.Placed, params string[] vaults) => new(
        new InventoryFile
        {
            Path = path,
            Standing = standing,
            Use = use,
            ShownPath = path,
            BelongsInside = standing == Standing.Inside,
            Bytes = standing is Standing.Inside or Standing.Outside ? 10 : 0,
            ModifiedUtc = standing is Standing.Inside or Standing.Outside ? DateTime.UnixEpoch : null,
        },
        drive,
        [.. vaults.Select(Vault)]);

    private static SessionOnDrive Session(string name, string drive, params SafeFile[] files) => new("/" + name, drive, files);

    private static string[] Told(params SessionOnDrive[] sessions) =>
        [.. DriveLoss.Of(sessions, Drive).SelectMany(l => l.Files.Select(f => $"{l.Session.Folder[1..]}: {f.Judged.File.Name} {f.Loss}{(f.GoesSilent ? ", silent" : "")}"))];

    [Fact]
    public void EachFileHasItsFate()
    {
        var song = Session(
            "song", Drive,
            File("/a/only.wav", Drive), File("/a/twice there.wav", Drive, vaults: [Drive]), File("/a/held.wav", Drive, vaults: [Drive, "vault"]),
            File("/b/elsewhere.wav", "other"), File("/b/held there.wav", "other", vaults: [Drive]), File("/b/held twice.wav", "other", vaults: [Drive, "vault"]));
        Assert.Equal(["song: only.wav Lost", "song: twice there.wav Lost", "song: held.wav ComesBack", "song: held there.wav OnlyOnceThen"], Told(song));
        var loss = Assert.Single(DriveLoss.Of([song], Drive));
        Assert.Equal(((2, 20L), (1, 10L), (1, 10L), (0, 0L)), (loss.Of(LossOfFile.Lost), loss.Of(LossOfFile.ComesBack), loss.Of(LossOfFile.OnlyOnceThen), loss.Silent));
        Assert.Empty(DriveLoss.Of([song], "third"));
    }

    /// <summary>Only what a session on another drive needs today goes silent: with a session of its own the drive takes the whole, and what an older version played is silent now.</summary>
    [Theory]
    [InlineData("other", FileUse.Placed, true)]
    [InlineData("other", FileUse.Named, true)]
    [InlineData("other", FileUse.Listed, true)]
    [InlineData("other", FileUse.OlderOnly, false)]
    [InlineData(Drive, FileUse.Placed, false)]
    public void WhatIsNeededFromElsewhereGoesSilent(string home, FileUse use, bool isSilent) =>
        Assert.Equal(["song: tide.wav ComesBack" + (isSilent ? ", silent" : "")], Told(Session("song", home, File("/card/tide.wav", Drive, Standing.Outside, use, "vault"))));

    /// <summary>A drive that is away holds what it held.</summary>
    [Fact]
    public void WhatIsAwayIsThere() => Assert.Equal(["song: tide.wav Lost, silent"], Told(Session("song", "other", File("/card/tide.wav", Drive, Standing.Away))));

    /// <summary>What stands nowhere any more, and in a vault there alone, is lost with it.</summary>
    [Fact]
    public void WhatIsMissingIsLostWithItsLastBackup() => Assert.Equal(
        ["song: a.wav Lost"],
        Told(Session("song", "other", File("/s/a.wav", "other", Standing.Missing, vaults: [Drive]), File("/s/b.wav", "other", Standing.Missing, vaults: [Drive, "vault"]), File("/s/c.wav", Drive, Standing.Missing))));

    /// <summary>What one session's backup holds is not lost for another that plays it, and counts once in the sum.</summary>
    [Fact]
    public void AFileOfTwoSessionsCountsOnceAndIsHeldForBoth()
    {
        SessionOnDrive[] sessions =
        [
            Session("one", "other", File("/card/tide.wav", Drive, Standing.Outside, vaults: ["vault"]), File("/card/gull.wav", Drive, Standing.Outside)),
            Session("two", "other", File("/card/tide.wav", Drive, Standing.Outside), File("/card/gull.wav", Drive, Standing.Outside)),
        ];
        Assert.Equal(
            ["one: tide.wav ComesBack, silent", "one: gull.wav Lost, silent", "two: tide.wav ComesBack, silent", "two: gull.wav Lost, silent"], Told(sessions));
        var losses = DriveLoss.Of(sessions, Drive);
        Assert.Equal(((1, 10L), (2, 20L)), (DriveLoss.Sum(losses, f => f.Loss == LossOfFile.Lost), DriveLoss.Sum(losses, f => f.GoesSilent)));
    }

    [Fact]
    public void ThoseThatLoseMostComeFirst() => Assert.Equal(
        ["c", "b", "a"],
        DriveLoss.Of(
            [
                Session("a", "other", File("/s/1.wav", "other", vaults: [Drive])), Session("b", "other", File("/card/2.wav", Drive, Standing.Outside, vaults: ["vault"])),
                Session("c", Drive, File("/s/3.wav", Drive)), Session("d", "other", File("/s/4.wav", "other")),
            ],
            Drive).Select(l => l.Session.Folder[1..]));
}
