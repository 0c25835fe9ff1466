using NeatCrate.Core.Names;

namespace NeatCrate.Core.Tests.Names;

/// <summary>Names in SQLite files that SQLite itself wrote (Debian's python3): rows that are there, and rows that were deleted.</summary>
public sealed class SqliteFileTests
{
    private static readonly List<string> Paths = [.. Enumerable.Range(1, 400).Select(n => $"Audio/Old takes/Glöckchen {n:000}.wav")];

    private static string[] Names(byte[] file, bool isLeftOver) =>
        [.. NameFinder.Find(file, TestContext.Current.CancellationToken).Names.Where(n => n.IsLeftOver == isLeftOver).Select(n => n.Readings[0].Text).Order(StringComparer.Ordinal).Distinct()];

    [Theory]
    [InlineData(512, "UTF-8")]
    [InlineData(4096, "UTF-8")]
    [InlineData(65536, "UTF-8")]
    [InlineData(1024, "UTF-16le")]
    [InlineData(1024, "UTF-16be")]
    public void EveryRowIsRead(int pageBytes, string encoding)
    {
        var file = SqliteDocuments.Write(("sounds", Paths), pageBytes, encoding: encoding);
        Assert.Equal(Paths, Names(file, false));
        // Pages that were parted hold the ends of rows that went to another one.
        Assert.Empty(Names(file, true).Intersect(Paths));
    }

    /// <summary>What was deleted may be named, and is never taken for named: it stands in free pages until something is written over it.</summary>
    [Fact]
    public void WhatWasDeletedIsLeftOver()
    {
        var file = SqliteDocuments.Write(("sounds", Paths), more: "DELETE FROM sounds WHERE id > 10; UPDATE sounds SET path='Audio/new.wav' WHERE id = 3;");
        Assert.Equal([.. Paths.Take(10).Where((_, n) => n != 2), "Audio/new.wav"], Names(file, false));
        Assert.Contains(Paths[200], Names(file, true));
        Assert.DoesNotContain(Paths[0], Names(file, true));
    }

    /// <summary>A file of which many cells claim the same long value costs no more than its own size.</summary>
    [Fact]
    public void AValueThatManyCellsClaimIsReadOnce()
    {
        var file = SqliteDocuments.Write(("sounds", ["Audio/first.wav", new string('x', 400_000) + "/last.wav"]), 512);
        // The leaf with the long row: all of its pointers lead to that cell.
        var leaf = Enumerable.Range(1, (file.Length / 512) - 1).Select(n => n * 512).First(at => file[at] == 13);
        var cell = file.AsSpan(leaf + 10, 2).ToArray();
        file[leaf + 4] = 60;
        for (var n = 0; n < 60; n++)
        {
            cell.CopyTo(file, leaf + 8 + (2 * n));
        }
        // What is made ready once, as the old encodings, is not counted.
        NameFinder.Find(file, TestContext.Current.CancellationToken);
        var before = GC.GetAllocatedBytesForCurrentThread();
        NameFinder.Find(file, TestContext.Current.CancellationToken);
        Assert.InRange(GC.GetAllocatedBytesForCurrentThread() - before, 400_000, 4_000_000);
    }

    [Fact]
    public void LongValuesTablesWithoutRowIdsAndPackedBlobsAreRead()
    {
        var blob = Convert.ToHexString(InventedFormats.Gzip([.. Enumerable.Repeat((byte)'\n', 20_000), .. "<f>Audio/in a blob.wav</f>"u8]));
        var noise = Convert.ToHexString(InventedFormats.Noise(9000)) + Convert.ToHexString("\0\0Audio/behind a page.wav\0"u8);
        var file = SqliteDocuments.Write(
            ("sounds", Paths[..1]), 1024,
            $"UPDATE sounds SET state=x'{blob}'; INSERT INTO sounds(path, state) VALUES('Audio/two.wav', x'{noise}'); CREATE TABLE plain(path TEXT PRIMARY KEY) WITHOUT ROWID; INSERT INTO plain VALUES('Audio/plain.wav');");
        Assert.Equal(["Audio/Old takes/Glöckchen 001.wav", "Audio/behind a page.wav", "Audio/in a blob.wav", "Audio/plain.wav", "Audio/two.wav"], Names(file, false));
        Assert.Equal("SQLite, gzip", NameFinder.Find(file, TestContext.Current.CancellationToken).Names.Single(n => n.Readings[0].Text.Contains("blob", StringComparison.Ordinal)).Container);
    }
}
