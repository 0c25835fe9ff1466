using System.Buffers.Binary;
using System.Globalization;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Record;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Tests.Plans;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Record;

public sealed class RepairPlannerTests : IDisposable
{
    private const int Length = 4801;

    private readonly SessionFixture _session = new();

    public void Dispose() => _session.Dispose();

    /// <summary>A recording whose power was cut: its sizes are as the recorder left them, and a last sample may be cut in two.</summary>
    private string CutOff(string name, int bits, uint dataSize, int extraBytes = 0, int channels = 1)
    {
        var path = _session.Inside("Audio", name);
        Directory.CreateDirectory(Path.GetDirectoryName(path)!);
        using var stream = File.Create(path);
        var bext = new BroadcastExtension("Cello, pass 1", "Neat Crate", "", "2026-10-14", "20:00:00", 172_800_000);
        var writer = new WavWriter(stream, new PcmFormat(48000, channels, bits), bext, [("quay", new byte[5])]);
        var data = stream.Position;
        writer.Write(Enumerable.Range(0, Length * channels).Select(n => (float)Math.Sin(n * 0.05) * 0.8f).ToArray());
        stream.Write(new byte[extraBytes]);
        stream.Position = data - 4;
        Span<byte> size = stackalloc byte[4];
        BinaryPrimitives.WriteUInt32LittleEndian(size, dataSize);
        stream.Write(size);
        return path;
    }

    private Plan Plan(params string[] growing) => RepairPlanner.Plan(_session.SessionId, _session.Inventory(), _session.Shelves, growing.ToHashSet());

    private static string Samples(string path) => Tool.Run("sh", "-c", $"sox '{path}' -t raw - | md5sum");

    /// <summary>A take that was cut off is as silent in an older version as in the current one.</summary>
    [Fact]
    public void OlderVersionsArePointedAtTheCopyAsWell()
    {
        var older = _session.Inside("Older documents", "261013 Net Mender.otio");
        _session.Place(CutOff("Cello 01.wav", 24, 0)).Save(older);
        _session.Save();
        var before = Tree.Of(_session.Folder);
        var (plan, journal) = (Plan(), new MemoryJournal());
        Assert.Equal([older, _session.DocumentPath], plan.Steps.OfType<RepointDocumentStep>().Select(s => s.Destination));
        journal.Apply(plan);
        Assert.All([older, _session.DocumentPath], d => Assert.Equal("Audio/Cello%2001%20repaired.wav", Assert.Single(SessionDocument.ReadFile(d).References).TargetUrl));
        journal.Apply(UndoPlanner.Plan(plan, journal.Records(plan)));
        Assert.Equal(before, Tree.Of(_session.Folder));
    }

    /// <summary>Source of the expected values: SoX and libsndfile read the repaired copy, and find every sample that had been written.</summary>
    [Theory]
    [InlineData(16, 0u, 0, 1)]
    [InlineData(24, 0u, 2, 1)]
    [InlineData(24, 0xFFFFFFFFu, 1, 2)]
    [InlineData(24, 900_000u, 0, 1)]
    [InlineData(32, 0u, 3, 1)]
    public void TheCopyHoldsEverySampleAndTheOriginalIsKept(int bits, uint dataSize, int extraBytes, int channels)
    {
        var path = CutOff("Cello 01.wav", bits, dataSize, extraBytes, channels);
        _session.Save();
        var before = Tree.Of(_session.Folder);
        var plan = Plan();
        Assert.Empty(plan.Refusals);
        var journal = new MemoryJournal();
        journal.Apply(plan);

        var copy = _session.Inside("Audio", "Cello 01 repaired.wav");
        Assert.Equal($"{Length}", Tool.Run("soxi", "-s", copy).Trim());
        Assert.Matches($@"Frames\s*: {Length}\b", Tool.Run("sndfile-info", copy));
        Assert.Contains("TAG:time_reference=172800000", Tool.Run("ffprobe", "-v", "error", "-show_entries", "format_tags", copy), StringComparison.Ordinal);
        var header = WavHeaderReader.ReadFile(copy);
        Assert.False(header.Unfinished);
        Assert.Empty(header.Remarks);
        Assert.Contains(header.Chunks, c => c is { Id: "quay", Bytes: 5 });
        // What the writer itself would have written, had it been allowed to end.
        var whole = Path.Combine(_session.Root, "whole.wav");
        using (var stream = File.Create(whole))
        using (var writer = new WavWriter(stream, new PcmFormat(48000, channels, bits)))
        {
            writer.Write(Enumerable.Range(0, Length * channels).Select(n => (float)Math.Sin(n * 0.05) * 0.8f).ToArray());
        }
        Assert.Equal(Samples(whole), Samples(copy));
        Assert.Equal(before["Audio/Cello 01.wav"], Tree.Of(_session.Folder)["Audio/Cello 01.wav"]);

        journal.Apply(UndoPlanner.Plan(plan, journal.Records(plan)));
        Assert.Equal(before, Tree.Of(_session.Folder));
        Assert.Equal(path, Assert.Single(_session.Inventory().Files).Path);
    }

    /// <summary>EBU Tech 3306: past the limit the copy is RF64, in the room that was kept or in a chunk that is put in. ffprobe agrees on the length.</summary>
    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public void WhatIsPastTheLimitBecomesRF64(bool hasRoom)
    {
        var path = CutOff("Cello 01.wav", 24, 0);
        if (!hasRoom)
        {
            var bytes = File.ReadAllBytes(path);
            File.WriteAllBytes(path, [.. bytes[..12], .. bytes[48..]]);
        }
        var header = WavHeaderReader.ReadFile(path);
        var copy = Path.Combine(_session.Root, "copy.wav");
        var original = File.ReadAllBytes(path);
        File.WriteAllBytes(copy, [.. WavRepair.Pieces(path, header, limit: 5000).SelectMany(p => p.Literal ?? original[(int)p.Offset..(int)(p.Offset + p.Length)])]);
        var repaired = WavHeaderReader.ReadFile(copy);
        Assert.Equal(("RF64", (long?)Length, false), (repaired.Container, repaired.LengthSamples, repaired.Unfinished));
        Assert.Empty(repaired.Remarks);
        Assert.Contains($"duration_ts={Length}", Tool.Run("ffprobe", "-v", "error", "-show_entries", "stream=duration_ts", copy), StringComparison.Ordinal);
        Assert.Matches($@"Frames\s*: {Length}\b", Tool.Run("sndfile-info", copy));
        Assert.Equal(new FileInfo(copy).Length - 8, BinaryPrimitives.ReadInt64LittleEndian(File.ReadAllBytes(copy).AsSpan(20)));
    }

    [Fact]
    public void ClipsOfTheRecordingPointAtTheCopyAndTheOriginalIsNoLongerCountedAsCutOff()
    {
        var path = CutOff("Cello 01.wav", 24, 0);
        _session.Place(path, "Cello").Save();
        new MemoryJournal().Apply(Plan());
        var after = _session.Inventory();
        Assert.Equal([("Cello 01 repaired.wav", FileUse.Placed), ("Cello 01.wav", FileUse.Stray)], after.Files.Select(f => (f.Name, f.Use)).Order());
        Assert.Equal("Cello 01 repaired.wav", Assert.Single(TakeFinder.Find(after), t => t.File.Path == path).RepairedAs);
        Assert.Equal([FaultCode.NothingCutOff], Plan().Refusals.Codes());
    }

    /// <summary>What the broken header said of the length is put right as well, and nothing is made up where the document says nothing. SoX tells the length.</summary>
    [Fact]
    public void TheDocumentTellsTheLengthThatTheCopyHas()
    {
        var path = CutOff("Cello 01.wav", 24, 0);
        _session.Place(path, "Cello", 100, 50);
        ClipBuilder.List(_session.Document.Root, MediaUrl.From(path, _session.Folder), 7, 48000);
        ClipBuilder.List(_session.Document.Root, MediaUrl.From(path, _session.Folder), null, 48000);
        _session.Save();
        new MemoryJournal().Apply(Plan());
        var seconds = long.Parse(Tool.Run("soxi", "-s", _session.Inside("Audio", "Cello 01 repaired.wav")), CultureInfo.InvariantCulture) / 48000.0;
        var references = SessionDocument.ReadFile(_session.DocumentPath).References;
        Assert.Equal([seconds, null, seconds], references.Select(r => r.AvailableSeconds));
        Assert.Equal([0, null, 0], references.Select(r => r.AvailableStart?.Seconds.ToDouble()));
        Assert.Equal(100 / 48000.0, references[2].Source!.Value.Start.Seconds.ToDouble());
    }

    [Fact]
    public void WhatStillGrowsIsNoRepairCase()
    {
        var path = CutOff("Cello 01.wav", 24, 0);
        _session.Save();
        Assert.Equal((FaultCode.StillGrowing, path), Assert.Single(Plan(path).Refusals) is var f ? (f.Code, f.Path) : default);
    }

    [Fact]
    public void ARecordingWithoutASampleSaysSo()
    {
        var path = CutOff("Cello 01.wav", 24, 0);
        File.WriteAllBytes(path, File.ReadAllBytes(path)[..(int)(WavHeaderReader.ReadFile(path).DataOffset + 2)]);
        _session.Save();
        var refusal = Assert.Single(Plan().Refusals);
        Assert.Equal((FaultCode.CannotBeRepaired, path, FaultCode.NoSoundWritten), (refusal.Code, refusal.Path, Assert.Single(refusal.Reasons).Code));
    }

    [Fact]
    public void CutOffAtAnyMomentTheSessionIsAsBeforeOrAsAfter()
    {
        _session.Place(CutOff("Cello 01.wav", 24, 0), "Cello").Place(CutOff("Cello 02.wav", 16, 0), "Cello").Save();
        CutOffs.AssertBeforeOrAfter(_session.Root, new MemoryJournal(), Plan());
    }

    [Fact]
    public void ARepairIsNotTakenBackWhenTheOriginalIsGone()
    {
        var path = CutOff("Cello 01.wav", 24, 0);
        _session.Save();
        var journal = new MemoryJournal();
        var plan = Plan();
        journal.Apply(plan);
        File.Delete(path);
        Assert.Equal([FaultCode.OriginalGone], Engine.Refusals(UndoPlanner.Plan(plan, journal.Records(plan))).Codes());
    }

    /// <summary>EBU Tech 3306: an RF64 recording whose ds64 chunk was never filled in is unfinished, not empty.</summary>
    [Fact]
    public void AnRF64RecordingWithoutItsSizesIsCutOffToo()
    {
        var path = CutOff("Cello 01.wav", 24, 0xFFFFFFFF);
        using (var stream = File.OpenWrite(path))
        {
            stream.Write("RF64"u8);
            stream.Position = 12;
            stream.Write("ds64"u8);
        }
        _session.Save();
        Assert.True(WavHeaderReader.ReadFile(path).Unfinished);
        new MemoryJournal().Apply(Plan());
        Assert.Equal(Length.ToString(CultureInfo.InvariantCulture), Tool.Run("soxi", "-s", _session.Inside("Audio", "Cello 01 repaired.wav")).Trim());
    }
}
