using System.Globalization;
using System.IO.Compression;
using System.Text;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Names;

namespace NeatCrate.Core.Tests.Names;

/// <summary>No bytes let the search for names fail, run on or take more than it may.</summary>
public sealed class HostileDocumentTests
{
    /// <summary>Documents of every invented format with bytes changed, cut out, doubled and swapped. More of them on demand: NEAT_CRATE_FUZZ_CASES=100000.</summary>
    [Fact]
    public void DamagedDocumentsAreSearchedAsFarAsTheyGo()
    {
        var times = int.Parse(Environment.GetEnvironmentVariable("NEAT_CRATE_FUZZ_CASES") ?? "5000", CultureInfo.InvariantCulture);
        var entries = Enumerable.Range(1, 12).Select(n => new Entry("Audio", $"Glöckchen & Bell {n}.wav")).ToList();
        byte[][] documents =
        [
            .. InventedFormats.All.Select(f => f.Write([.. entries.Select(e => (InventedFormats.PathOf(e, f.Style, "/sessions/261110 Breakwater"), e))])),
            SqliteDocuments.Write(("sounds", entries.ConvertAll(e => e.Relative)), pageBytes: 512),
            Encoding.UTF8.GetBytes($"<p><undo at='1'>{string.Concat(entries.Select(e => $"<redo f=\"{e.Relative}\"/>"))}</undo>{string.Concat(entries.Select(e => $"<c>{e.Relative}</c>"))}</p>"),
            Encoding.UTF8.GetBytes($"{{\"undo\":[{{\"f\":\"{entries[0].Relative}\"}}],\"redoStack\":{{}},\"f\":[{string.Join(',', entries.Select(e => $"\"{e.Relative}\""))}]}}"),
        ];
        var random = new Random(20261201);
        var names = 0;
        for (var n = 0; n < times; n++)
        {
            var bytes = Mutated(documents[n % documents.Length], random);
            names += NameFinder.Find(bytes, TestContext.Current.CancellationToken).Names.Length;
        }
        // Most of what was not touched is still found.
        Assert.True(names > times, $"{names} names in {times} documents");
    }

    /// <summary>The same documents in a session folder: whatever their names come to, the folder is looked at as any other. What escapes hide is no path.</summary>
    [Fact]
    public void NoDocumentLetsALookFail()
    {
        using var session = new SessionFixture();
        SessionFixture.Sound(session.Inside("Audio", "Glöckchen & Bell 1.wav"));
        var entries = Enumerable.Range(1, 12).Select(n => new Entry("Audio", $"Glöckchen & Bell {n}.wav")).ToList();
        List<byte[]> documents =
        [
            "<f>Audio/%00hidden.wav</f><f>/%00/hidden.wav</f>"u8.ToArray(), "{\"f\":\"Audio/\\u0000hidden.wav\"}"u8.ToArray(), "<f>Audio/&#0;hidden.wav</f>"u8.ToArray(),
            "<f>../../../../../../../up.wav</f><f>//////x.wav</f><f>C:\\..\\..\\x.wav</f><f>file:///../../x.wav</f>"u8.ToArray(),
        ];
        var random = new Random(7);
        foreach (var format in InventedFormats.All)
        {
            documents.Add(Mutated(format.Write([.. entries.Select(e => (InventedFormats.PathOf(e, format.Style, session.Folder), e))]), random));
        }
        foreach (var document in documents)
        {
            File.WriteAllBytes(session.Inside("Breakwater.loft"), document);
            var files = new InventoryReader(new HeaderCache(), null).Read(session.Folder, null, session.Shelves, TestContext.Current.CancellationToken).Files;
            Assert.Contains(files, f => f.Name == "Glöckchen & Bell 1.wav" && f.Standing == Standing.Inside);
            Assert.DoesNotContain(files, f => f.Path.Contains('\0', StringComparison.Ordinal));
        }
    }

    private static byte[] Mutated(byte[] document, Random random)
    {
        var bytes = document.ToList();
        for (var n = random.Next(1, 6); n > 0 && bytes.Count > 8; n--)
        {
            var (at, length) = (random.Next(bytes.Count), random.Next(1, 64));
            length = Math.Min(length, bytes.Count - at);
            switch (random.Next(5))
            {
                case 0:
                    bytes[at] = (byte)random.Next(256);
                    break;
                case 1:
                    bytes.RemoveRange(at, length);
                    break;
                case 2:
                    bytes.InsertRange(at, bytes.GetRange(at, length));
                    break;
                case 3:
                    bytes.RemoveRange(at, bytes.Count - at);
                    break;
                default:
                    for (var i = 0; i < length; i++)
                    {
                        bytes[at + i] = (byte)random.Next(256);
                    }
                    break;
            }
        }
        return [.. bytes];
    }

    /// <summary>A packed document that unpacks to far more than it is itself is looked through to its bound, in windows, and says so.</summary>
    [Fact]
    public void WhatUnpacksWithoutEndIsLookedThroughToABound()
    {
        using var packed = new MemoryStream();
        using (var gzip = new GZipStream(packed, CompressionLevel.Fastest, true))
        {
            gzip.Write("<f>Audio/first.wav</f>"u8);
            var zeros = new byte[1 << 20];
            for (var n = 0; n < 1200; n++)
            {
                gzip.Write(zeros);
            }
            gzip.Write("<f>Audio/last.wav</f>"u8);
        }
        var before = GC.GetAllocatedBytesForCurrentThread();
        var found = NameFinder.Find(packed.ToArray(), TestContext.Current.CancellationToken);
        Assert.Equal(("Audio/first.wav", false), (Assert.Single(found.Names).Readings[0].Text, found.IsWhole));
        Assert.InRange(GC.GetAllocatedBytesForCurrentThread() - before, 0, 128L * 1024 * 1024);
    }

    /// <summary>Millions of parts that begin and never end are no parts, and do not hold the search up.</summary>
    [Theory]
    [InlineData("<undo>")]
    [InlineData("<undo a=\"")]
    [InlineData("\"undo\":[")]
    [InlineData("undo")]
    public void PartsThatNeverEndAreNone(string begins)
    {
        var document = Encoding.UTF8.GetBytes("<p>" + string.Concat(Enumerable.Repeat(begins, 1_000_000)) + "\n\"Audio/a.wav\"</p>");
        Assert.False(Assert.Single(NameFinder.Find(document, TestContext.Current.CancellationToken).Names).IsLeftOver);
    }

    /// <summary>A name across the border of two windows is found, and found once.</summary>
    [Fact]
    public void ANameAcrossTheBorderOfTwoWindowsIsFoundOnce()
    {
        for (var shift = -20; shift <= 20; shift += 4)
        {
            var before = new byte[(32 * 1024 * 1024) + shift];
            Array.Fill(before, (byte)'\n');
            var found = NameFinder.Find(InventedFormats.Gzip([.. before, .. "<f>Audio/Cello 01.wav</f>\n"u8, .. new byte[9000]]), TestContext.Current.CancellationToken);
            Assert.Equal(("Audio/Cello 01.wav", 1), (Assert.Single(found.Names).Readings[0].Text, found.Names[0].Times));
        }
    }

    /// <summary>A name is kept once, however often it stands there.</summary>
    [Fact]
    public void ANameIsKeptOnceWithHowOftenItStandsThere()
    {
        var text = string.Concat(Enumerable.Range(0, 300).Select(n => $"<clip n='{n}' media=\"Audio/Cello 01.wav\"/>"));
        var found = Assert.Single(NameFinder.Find(Encoding.UTF8.GetBytes(text), TestContext.Current.CancellationToken).Names);
        Assert.Equal(("Audio/Cello 01.wav", 300), (found.Readings[0].Text, found.Times));
    }

    /// <summary>One name behind a byte that is no text is read as what it is, letters beyond plain ones and all.</summary>
    [Fact]
    public void ANameBehindAByteThatIsNoTextIsRead() =>
        Assert.Equal("Glöckchen.wav", Assert.Single(NameFinder.Find([0, 0xAE, .. "Glöckchen.wav"u8, 0], TestContext.Current.CancellationToken).Names).Readings[0].Text);

    [Fact]
    public void AThingPackedInThingsIsUnpackedTwiceAndNoFurther()
    {
        var text = "<f>Audio/Cello 01.wav</f>"u8.ToArray();
        Assert.Equal("gzip, ZIP: a.bin", Assert.Single(NameFinder.Find(InventedFormats.Gzip(InventedFormats.Zip(("a.bin", text))), TestContext.Current.CancellationToken).Names).Container);
        var deeper = NameFinder.Find(InventedFormats.Gzip(InventedFormats.Gzip(InventedFormats.Gzip(text))), TestContext.Current.CancellationToken);
        Assert.Equal((0, false), (deeper.Names.Length, deeper.IsWhole));
        Assert.False(NameFinder.Find(InventedFormats.Gzip(InventedFormats.Gzip(InventedFormats.Zip(("a.bin", text)))), TestContext.Current.CancellationToken).IsWhole);
    }

    /// <summary>What was cut off or damaged may have named more: it is not said to be looked through to its end.</summary>
    [Fact]
    public void WhatIsCutOffIsNotWhole()
    {
        var text = Encoding.UTF8.GetBytes(string.Concat(Enumerable.Range(0, 3000).Select(n => $"<f n='{n * 7919 % 3001}'>Audio/Cello {n:0000}.wav</f>")));
        bool IsWhole(byte[] bytes) => NameFinder.Find(bytes, TestContext.Current.CancellationToken).IsWhole;
        foreach (var packed in new[] { InventedFormats.Gzip(text), InventedFormats.Zlib(text), InventedFormats.Zip(("a.xml", text)) })
        {
            Assert.True(IsWhole(packed));
            Assert.False(IsWhole(packed[..(packed.Length / 2)]));
        }
        var damaged = InventedFormats.Zip(("a.xml", text));
        damaged.AsSpan(damaged.Length / 2, 64).Clear();
        Assert.False(IsWhole(damaged));
        // What only looks like a header, anywhere in other bytes, is none.
        Assert.True(IsWhole([.. text, 0x1F, 0x8B, 8, 0, 0, 0, 0, 0, 0, 3, 0x4B, 0x4C, .. new byte[40], 0x78, 0x9C, 0x4B, .. text]));
    }

    /// <summary>Media that are packed along are no names, and a ZIP that was cut off is searched as bytes.</summary>
    [Fact]
    public void TheEntriesOfAZipNameNothingByThemselves()
    {
        var zip = InventedFormats.Zip(("Audio/packed.wav", "RIFF<f>Audio/told in a sound.wav</f>"u8.ToArray()), ("list.xml", "<f>Audio/Cello 01.wav</f>"u8.ToArray()));
        Assert.Equal(["Audio/Cello 01.wav"], NameFinder.Find(zip, TestContext.Current.CancellationToken).Names.Select(n => n.Readings[0].Text));
        Assert.Contains(NameFinder.Find(zip[..^30], TestContext.Current.CancellationToken).Names, n => n.Readings[0].Text.EndsWith("packed.wav", StringComparison.Ordinal));
    }
}
