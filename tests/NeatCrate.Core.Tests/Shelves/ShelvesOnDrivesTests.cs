using NeatCrate.Core.Shelves;

namespace NeatCrate.Core.Tests.Shelves;

public sealed class ShelvesOnDrivesTests
{
    private static readonly Guid A = Guid.NewGuid(), B = Guid.NewGuid(), C = Guid.NewGuid();

    private static (bool, bool, bool) Together(ShelvesOnDrives drives) => (drives.Of(A) == drives.Of(B), drives.Of(A) == drives.Of(C), drives.Of(B) == drives.Of(C));

    [Fact]
    public void WhatIsAwayIsRememberedAsItWasWhenItWasThere()
    {
        Assert.Equal((false, false, false), Together(ShelvesOnDrives.Unknown));
        var first = ShelvesOnDrives.Unknown.With([(A, "1"), (B, "1"), (C, "2")]);
        Assert.Equal((true, false, false), Together(first));
        // The number of a drive that comes back is another one, and may be that of one that left.
        var away = first.With([(A, null), (B, "1"), (C, null)]);
        Assert.Equal((true, false, false), Together(away));
        Assert.Equal((true, false, false), Together(away.With([(A, "7"), (B, "7"), (C, "1")])));
        Assert.Equal((true, false, false), Together(away.With([(A, null), (B, "9"), (C, "1")])));
        Assert.Same(away, away.With([(A, null), (B, "1"), (C, null)]));
    }

    /// <summary>A shelf that was copied to another drive is on that from then on; those that stay, stay together.</summary>
    [Fact]
    public void WhatLeavesForAnotherDriveLeavesTheOthersTogether()
    {
        var together = ShelvesOnDrives.Unknown.With([(A, "1"), (B, "1"), (C, "1")]);
        Assert.Equal((true, true, true), Together(together));
        Assert.Equal((false, false, true), Together(together.With([(A, "2"), (B, "1"), (C, "1")])));
        Assert.Equal((true, false, false), Together(together.With([(A, "1"), (B, "1"), (C, "2")])));
        // One that is forgotten is not remembered.
        Assert.Equal((true, false, false), Together(together.With([(A, "1"), (B, "1")])));
    }

    /// <summary>Seen apart for the first time while a third is away: the one that is away is with the one that kept its name.</summary>
    [Fact]
    public void TwoThatPartAreNoLongerOne()
    {
        var together = ShelvesOnDrives.Unknown.With([(A, "1"), (B, "1"), (C, null)]);
        var parted = together.With([(A, "1"), (B, "2"), (C, "3")]);
        Assert.Equal((false, false, false), Together(parted));
        Assert.Equal((false, false, false), Together(parted.With([(A, null), (B, null), (C, null)])));
    }
}
