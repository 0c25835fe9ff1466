using NeatCrate.Core.CopyIn;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Shelves;

namespace NeatCrate.Core.Tests.CopyIn;

public sealed class OriginTests
{
    private static readonly Shelf[] Shelves =
    [
        new(Guid.NewGuid(), "Session drive", ShelfKind.SessionDrive, "/drive"),
        new(Guid.NewGuid(), "Loft samples", ShelfKind.OwnLibrary, "/drive/samples"),
        new(Guid.NewGuid(), "House kit", ShelfKind.StockContent, "/kit"),
        new(Guid.NewGuid(), "Field card", ShelfKind.Removable, "/media/card"),
        new(Guid.NewGuid(), "Vault", ShelfKind.Vault, "/vault"),
    ];

    [Theory]
    [InlineData("/drive/samples/struck/high.wav", OriginKind.OwnLibrary, "Loft samples", "/drive/samples")]
    [InlineData("/kit/oar.wav", OriginKind.StockContent, "House kit", "/kit")]
    [InlineData("/media/card/tide.wav", OriginKind.Removable, "Field card", "/media/card")]
    [InlineData("/drive/Low Water/Audio/cello.wav", OriginKind.OtherSession, "Low Water", "/drive/Low Water")]
    // A session on a removable drive is a session first.
    [InlineData("/media/card/Fog Signal/a.wav", OriginKind.OtherSession, "Fog Signal", "/media/card/Fog Signal")]
    [InlineData("/drive/tries/a.wav", OriginKind.Loose, "Session drive: tries", "/drive/tries")]
    [InlineData("/vault/old/a.wav", OriginKind.Loose, "Vault: old", "/vault/old")]
    [InlineData("/home/wren/Downloads/a.wav", OriginKind.Loose, "/home/wren/Downloads", "/home/wren/Downloads")]
    public void AFileComesFromTheNearestPlaceThatIsKnown(string path, OriginKind kind, string name, string place) =>
        Assert.Equal(new Origin(kind, name, place), Origin.Of(path, Shelves, ["/drive/Low Water", "/media/card/Fog Signal"]));

    [Fact]
    public void WhatNobodyMarkedIsTakenAndTheMarkOfAFileIsStrongerThanThatOfItsPlace()
    {
        var kit = new Origin(OriginKind.StockContent, "House kit", "/kit");
        var marks = CopyInMarks.Everything;
        Assert.True(marks.Includes(File("/kit/a.wav"), kit));
        marks = marks.MarkPlace("/kit", [], false).MarkFiles(["/kit/b.wav"], true);
        Assert.False(marks.Includes(File("/kit/a.wav"), kit));
        Assert.True(marks.Includes(File("/kit/b.wav"), kit));
        // A place that is marked anew is marked whole.
        marks = marks.MarkPlace("/kit", ["/kit/a.wav", "/kit/b.wav"], false);
        Assert.False(marks.Includes(File("/kit/b.wav"), kit));
    }

    private static InventoryFile File(string path, bool isSample = false) => new()
    {
        Path = path,
        Standing = Standing.Outside,
        Use = FileUse.Placed,
        ShownPath = path,
        BelongsInside = false,
        Instruments = isSample ? ["/kit/organ.sfz"] : [],
        TargetUrls = isSample ? [] : [path],
    };

    [Theory]
    [InlineData("/kit/a.wav", CopyKind.Audio)]
    [InlineData("/kit/Firth.flac", CopyKind.Audio)]
    [InlineData("/kit/IR/hall.wav", CopyKind.ImpulseResponses)]
    [InlineData("/kit/Impulse Responses/hall.wav", CopyKind.ImpulseResponses)]
    [InlineData("/kit/chapel_IR_far.wav", CopyKind.ImpulseResponses)]
    [InlineData("/kit/Iris/hall.wav", CopyKind.Audio)]
    [InlineData("/kit/organ.sfz", CopyKind.Instruments)]
    [InlineData("/kit/scene 4.mov", CopyKind.Video)]
    [InlineData("/kit/bells.mid", CopyKind.Other)]
    public void EachFileIsOfOneKind(string path, CopyKind kind)
    {
        Assert.Equal(kind, CopyKinds.Of(File(path)));
        Assert.Equal(CopyKind.Instruments, CopyKinds.Of(File(path, isSample: true)));
    }

    /// <summary>A kind stays out from wherever it comes, unless somebody took the file itself.</summary>
    [Fact]
    public void AKindThatIsLeftOutStaysOut()
    {
        var kit = new Origin(OriginKind.StockContent, "House kit", "/kit");
        var marks = CopyInMarks.Everything with { LeftOutKinds = [CopyKind.Video] };
        Assert.Equal((true, false), (marks.Includes(File("/kit/a.wav"), kit), marks.Includes(File("/kit/scene.mov"), kit)));
        marks = marks.MarkPlace("/kit", [], true);
        Assert.False(marks.Includes(File("/kit/scene.mov"), kit));
        Assert.True(marks.MarkFiles(["/kit/scene.mov"], true).Includes(File("/kit/scene.mov"), kit));
    }
}
