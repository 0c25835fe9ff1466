using NeatCrate.Core.Backups;
using NeatCrate.Core.Vault;

namespace NeatCrate.Core.Tests.Backups;

public sealed class BackupOwnersTests
{
    private static readonly Guid Identity = Guid.NewGuid();

    private static readonly BackedUpSession Original = new(Guid.NewGuid(), Identity, "/drive/261014 Net Mender", 1000);
    private static readonly BackedUpSession Copy = new(Guid.NewGuid(), Identity, "/drive/copies/261014 Net Mender", 2000);
    private static readonly BackedUpSession Renamed = new(Guid.NewGuid(), Identity, "/drive/Net Mender again", 3000);
    private static readonly BackedUpSession Other = new(Guid.NewGuid(), Guid.NewGuid(), "/drive/261014 Net Mender", 500);

    private static BackupHeader Header(Guid session, string folder, string? stood) =>
        new() { Session = session, Folder = folder, Stood = stood, Made = DateTime.UnixEpoch, Files = 0, Bytes = 0, NewBytes = 0 };

    /// <summary>Of sessions that share an identity exactly one owns each backup.</summary>
    [Theory]
    [InlineData("261014 Net Mender", "/drive/261014 Net Mender", "original")]
    [InlineData("261014 Net Mender", "/drive/copies/261014 Net Mender", "copy")]
    [InlineData("Net Mender again", "/drive/Net Mender again", "renamed")]
    [InlineData("Net Mender again", null, "renamed")]
    [InlineData("261014 Net Mender", null, "original")]
    [InlineData("261014 Net Mender", "/somewhere/261014 Net Mender", "original")]
    [InlineData("what it was called then", "/somewhere/what it was called then", "original")]
    public void ABackupIsOfOneOfThoseThatShareAnIdentity(string folder, string? stood, string owner)
    {
        var (header, sharing) = (Header(Identity, folder, stood), new[] { Copy, Renamed, Original });
        Assert.Equal([owner == "copy", owner == "renamed", owner == "original"], sharing.Select(s => BackupOwners.IsOf(header, s, sharing)));
        Assert.False(BackupOwners.IsOf(header, Other, [Other]));
        // Alone, it is of whoever carries the identity, wherever it stands now.
        Assert.True(BackupOwners.IsOf(header, Copy, [Copy]));
    }

    [Fact]
    public void ASessionWithoutAnIdentityIsKnownByItsFolder()
    {
        var nameless = new BackedUpSession(Guid.NewGuid(), null, "/drive/Song", 0);
        Assert.Equal(nameless.Id, BackupOwners.KeyOf(nameless));
        Assert.True(BackupOwners.IsOf(Header(nameless.Id, "renamed since", null), nameless, []));
        Assert.True(BackupOwners.IsOf(Header(Guid.NewGuid(), "Song", null), nameless, []));
        Assert.False(BackupOwners.IsOf(Header(Guid.NewGuid(), "Another", null), nameless, []));
        Assert.Equal(Identity, BackupOwners.KeyOf(Copy));
    }
}
