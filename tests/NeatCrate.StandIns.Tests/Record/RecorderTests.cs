using NeatCrate.Core.Media;
using NeatCrate.StandIns.Record;
using NeatCrate.Testing;

namespace NeatCrate.StandIns.Tests.Record;

public sealed class RecorderTests : IDisposable
{
    private readonly TempFolder _temp = new();

    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(30);

    public RecorderTests() => Directory.CreateDirectory(MirrorRoot);

    private string MirrorRoot => Path.Combine(_temp.Path, "mirror");

    public void Dispose() => _temp.Dispose();

    private RecorderPass Pass(double seconds, int bits = 24, bool mirror = false, double? cutPowerAfter = null, params string[] tracks) => new(
        "Net Mender", 3, 48000, bits, seconds, 40, 172_800_000, new DateTimeOffset(2026, 10, 14, 21, 30, 5, TimeSpan.Zero),
        [.. tracks.Select((t, n) => new ArmedTrack(t, n + 1, Path.Combine(_temp.Path, "Audio", $"{t} {n + 1:00}.wav"), mirror ? Path.Combine(MirrorRoot, "takes", $"{t} {n + 1:00}.wav") : null))],
        MirrorRoot,
        cutPowerAfter);

    private static async Task<Recorder> Run(RecorderPass pass)
    {
        var recorder = Recorder.Start(pass, TimeProvider.System);
        await recorder.Ended.WaitAsync(TimeSpan.FromSeconds(30), TestContext.Current.CancellationToken);
        return recorder;
    }

    /// <summary>Source of the expected values: SoX, ffprobe and libsndfile read what the recorder wrote.</summary>
    [Theory]
    [InlineData(16)]
    [InlineData(24)]
    [InlineData(32)]
    public async Task TakesOnSeveralTracksAreBroadcastWavesThatOthersRead(int bits)
    {
        using var recorder = await Run(Pass(12, bits, tracks: ["Cello", "Voice"]));
        Assert.Equal(RecorderState.Finished, recorder.State);
        foreach (var take in recorder.Progress)
        {
            Assert.Equal(("576000", $"{bits}"), (Tool.Run("soxi", "-s", take.Track.Path).Trim(), Tool.Run("soxi", "-b", take.Track.Path).Trim()));
            Assert.Matches(@"Frames\s*: 576000\b", Tool.Run("sndfile-info", take.Track.Path));
            var tags = Tool.Run("ffprobe", "-v", "error", "-show_entries", "format_tags", take.Track.Path);
            Assert.Contains("TAG:time_reference=172800000", tags, StringComparison.Ordinal);
            Assert.Contains("TAG:date=2026-10-14", tags, StringComparison.Ordinal);
            Assert.Contains("TAG:creation_time=21:30:05", tags, StringComparison.Ordinal);
            Assert.Contains("TAG:encoded_by=Neat Crate recorder", tags, StringComparison.Ordinal);
            var header = WavHeaderReader.ReadFile(take.Track.Path);
            Assert.Equal(take.Track.Name, Assert.Single(header.Ixml!.Tracks).Name);
            Assert.Empty(header.Remarks);
            // It is sound, and not silence.
            Assert.Matches(@"Maximum amplitude:\s+0\.[1-9]", Tool.Run("sox", take.Track.Path, "-n", "stat"));
        }
    }

    [Fact]
    public async Task FilesGrowWhileItRunsAndStopWritesTheSizes()
    {
        var pass = Pass(100_000, tracks: "Cello");
        using var recorder = Recorder.Start(pass, TimeProvider.System);
        var sizes = new HashSet<long>();
        while (sizes.Count < 4)
        {
            var file = new FileInfo(pass.Tracks[0].Path);
            sizes.Add(file.Length);
            Assert.False(recorder.Ended.IsCompleted);
            await Task.Yield();
        }
        Assert.True(WavHeaderReader.ReadFile(pass.Tracks[0].Path).Unfinished);
        recorder.Stop();
        await recorder.Ended;
        var header = WavHeaderReader.ReadFile(pass.Tracks[0].Path);
        Assert.Equal((false, (long?)Assert.Single(recorder.Progress).Samples), (header.Unfinished, header.LengthSamples));
    }

    [Fact]
    public async Task APowerCutLeavesEverythingThatWasRecordedAndNoSizes()
    {
        using var recorder = await Run(Pass(100_000, cutPowerAfter: 7, tracks: "Cello"));
        Assert.Equal(RecorderState.PowerCut, recorder.State);
        var header = WavHeaderReader.ReadFile(recorder.Pass.Tracks[0].Path);
        Assert.Equal((true, (long?)(7 * 48000)), (header.Unfinished, header.LengthSamples));
    }

    [Fact]
    public async Task TheMirrorIsTheSameByteForByte()
    {
        using var recorder = await Run(Pass(5, mirror: true, tracks: ["Cello", "Voice"]));
        foreach (var take in recorder.Progress)
        {
            Assert.Equal((MirrorState.Following, 240_000L), (take.Mirror, take.MirrorSamples));
            Tool.Run("cmp", take.Track.Path, take.Track.MirrorPath!);
        }
    }

    [Fact]
    public async Task AMirrorThatGoesAwayDoesNotStopTheTake()
    {
        var pass = Pass(100_000, mirror: true, tracks: "Cello");
        using var recorder = Recorder.Start(pass, TimeProvider.System);
        Assert.True(SpinWait.SpinUntil(() => recorder.Progress[0].MirrorSamples > 48000, Patience));
        Directory.Move(Path.Combine(_temp.Path, "mirror"), Path.Combine(_temp.Path, "unplugged"));
        Assert.True(SpinWait.SpinUntil(() => recorder.Progress[0].Mirror == MirrorState.Gone, Patience));
        var then = recorder.Progress[0].Samples;
        Assert.True(SpinWait.SpinUntil(() => recorder.Progress[0].Samples > then + 48000, Patience));
        recorder.Stop();
        await recorder.Ended;
        var progress = recorder.Progress[0];
        Assert.True(progress.MirrorSamples < progress.Samples);
        Assert.Equal(progress.Samples, WavHeaderReader.ReadFile(pass.Tracks[0].Path).LengthSamples);
        Assert.False(Directory.Exists(Path.Combine(_temp.Path, "mirror")));
    }

    /// <summary>The place where a drive is mounted must not be filled while the drive is not there.</summary>
    [Fact]
    public async Task AMirrorThatIsAwayFromTheStartIsNotMadeUp()
    {
        Directory.Delete(MirrorRoot);
        using var recorder = await Run(Pass(5, mirror: true, tracks: "Cello"));
        Assert.Equal((MirrorState.Gone, 0L, 240_000L), (recorder.Progress[0].Mirror, recorder.Progress[0].MirrorSamples, recorder.Progress[0].Samples));
        Assert.False(Directory.Exists(MirrorRoot));
    }

    [Fact]
    public void AFileThatIsThereIsNeverRecordedOver()
    {
        var pass = Pass(5, tracks: ["Cello", "Voice"]);
        Directory.CreateDirectory(Path.GetDirectoryName(pass.Tracks[1].Path)!);
        File.WriteAllText(pass.Tracks[1].Path, "kept");
        Assert.Throws<IOException>(() => Recorder.Start(pass, TimeProvider.System));
        Assert.Equal("kept", File.ReadAllText(pass.Tracks[1].Path));
    }

    /// <summary>A file system of one megabyte (tmpfs, needs root): the take ends early, whole, and says why.</summary>
    [Fact]
    public async Task AFullDriveEndsTheTakeAndKeepsWhatIsThere()
    {
        Assert.SkipUnless(Environment.UserName == "root", "Mounting needs root.");
        Tool.Run("mount", "-t", "tmpfs", "-o", "size=1m", "tmpfs", _temp.Folder("Audio"));
        try
        {
            using var recorder = await Run(Pass(100_000, tracks: "Cello"));
            var progress = Assert.Single(recorder.Progress);
            Assert.StartsWith("The drive took no more", progress.Problem, StringComparison.Ordinal);
            var header = WavHeaderReader.ReadFile(progress.Track.Path);
            Assert.InRange(header.LengthSamples!.Value, 200_000, 350_000);
        }
        finally
        {
            Tool.Run("umount", Path.Combine(_temp.Path, "Audio"));
        }
    }
}
