using NeatCrate.App.Ground;

namespace NeatCrate.App.Tests.Hosting;

public sealed class ReadOnceTests
{
    [Fact]
    public void ItIsReadOnceUntilItChanged()
    {
        var reads = 0;
        var once = new ReadOnce<string>(() => $"{++reads}");
        Assert.Equal(["1", "1"], [once.Value, once.Value]);
        once.Changed();
        Assert.Equal(["2", "2"], [once.Value, once.Value]);
    }

    /// <summary>Whoever began to read before a change must not leave the old behind for those after it.</summary>
    [Fact]
    public void WhatWasBeingReadWhenItChangedIsNotKept()
    {
        var stored = "old";
        ReadOnce<string> once = null!;
        once = new ReadOnce<string>(() =>
        {
            var read = stored;
            if (stored == "old")
            {
                stored = "new";
                once.Changed();
            }
            return read;
        });
        Assert.Equal("old", once.Value);
        Assert.Equal("new", once.Value);
    }
}
