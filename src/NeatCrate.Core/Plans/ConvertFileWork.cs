using NeatCrate.Core.Media;

namespace NeatCrate.Core.Plans;

/// <summary>The work of a <see cref="ConvertFileStep"/>: the sound at another rate, as 32-bit floating point, which neither rounds nor clips.</summary>
internal sealed class ConvertFileWork : NewFileWork
{
    private const int BlockSamples = 16 * 1024;

    /// <inheritdoc/>
    public override IEnumerable<string> Refusals(PlanStep step, bool vacated)
    {
        var convert = (ConvertFileStep)step;
        return base.Refusals(step, vacated).Concat(FileTransfer.SourceRefusals(convert.Source, convert.Expected));
    }

    /// <inheritdoc/>
    protected override void Stage(PlanStep step, string temporary, StepContext context)
    {
        var convert = (ConvertFileStep)step;
        using (FileTransfer.OpenSource(convert.Source, convert.Expected))
        {
            Write(convert, temporary, context);
        }
        // Read back from the disk, as every new file is.
        using var to = File.OpenHandle(temporary, FileMode.Open, FileAccess.ReadWrite);
        var written = ByteIdentity.OfFile(temporary, null, context.Cancel);
        FileTransfer.FlushAndCompare(to, temporary, written, context);
        context.Staged(written);
    }

    private static void Write(ConvertFileStep convert, string temporary, StepContext context)
    {
        var header = MediaHeaderReader.ReadFile(convert.Source) ?? throw new SourceFailedException($"'{Path.GetFileName(convert.Source)}' holds no sound that can be read.");
        using var reader = SoundReader.Open(convert.Source, header);
        using var resampler = new Resampler(reader, convert.SampleRate);
        using var stream = new FileStream(temporary, FileMode.CreateNew, FileAccess.ReadWrite);
        using var writer = new WavWriter(stream, new PcmFormat(convert.SampleRate, reader.Channels, 32), Broadcast(header, convert.SampleRate));
        var block = new float[BlockSamples * reader.Channels];
        for (int count; (count = resampler.Read(block)) > 0;)
        {
            context.Cancel.ThrowIfCancellationRequested();
            writer.Write(block.AsSpan(0, count * reader.Channels));
            context.Worked((long)count * reader.Channels * sizeof(float));
        }
    }

    /// <summary>What the file says of itself comes along; its time reference counts samples, so it counts them at the new rate (EBU Tech 3285).</summary>
    private static BroadcastExtension? Broadcast(MediaHeader header, int rate) => header.Broadcast is { } broadcast
        ? broadcast with { TimeReference = (ulong)((UInt128)broadcast.TimeReference * (ulong)rate / (ulong)header.SampleRate) }
        : null;
}
