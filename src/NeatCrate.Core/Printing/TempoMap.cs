using System.Buffers.Binary;
using System.Collections.Immutable;
using System.Globalization;
using System.Text;

namespace NeatCrate.Core.Printing;

/// <summary>A marker on the timeline.</summary>
/// <param name="Seconds">Where, from the start of the session.</param>
/// <param name="Name">What it is called.</param>
public sealed record TimelineMarker(double Seconds, string Name);

/// <summary>Tempo, time signature and markers of a session, as a Standard MIDI File and as text.</summary>
/// <param name="Name">Name of the timeline.</param>
/// <param name="Tempo">Quarters in a minute; null where the document does not say.</param>
/// <param name="Signature">Time signature, as <c>4/4</c>; null where the document does not say.</param>
/// <param name="Markers">The markers, in order.</param>
public sealed record TempoMap(string Name, double? Tempo, string? Signature, ImmutableArray<TimelineMarker> Markers)
{
    /// <summary>Ticks in a quarter, as the Standard MIDI File counts them.</summary>
    public const int TicksPerQuarter = 960;

    private const double MicrosecondsPerMinute = 60_000_000;
    private const int MostMicroseconds = 0xFF_FFFF;
    private const int StandardTempo = 120;

    /// <summary>
    /// A Standard MIDI File of format 0 (MIDI Manufacturers Association, "Standard MIDI Files 1.0", RP-001): sequence name, tempo, time signature and markers
    /// as meta events. The tempo is a whole number of microseconds there, and where a marker stands is counted with that number, so that it stands
    /// at its time, to half a tick, however long the session is.
    /// </summary>
    public byte[] ToMidi()
    {
        var track = new List<byte>();
        var last = 0L;
        void Meta(long tick, byte kind, ReadOnlySpan<byte> content)
        {
            Variable(track, tick - last);
            last = tick;
            track.AddRange([0xFF, kind]);
            Variable(track, content.Length);
            track.AddRange(content);
        }
        var microseconds = MicrosecondsPerQuarter;
        Meta(0, 0x03, Encoding.UTF8.GetBytes(Name));
        Meta(0, 0x51, [(byte)(microseconds >> 16), (byte)(microseconds >> 8), (byte)microseconds]);
        if (Parts() is var (beats, power))
        {
            Meta(0, 0x58, [beats, power, 24, 8]);
        }
        foreach (var marker in Markers)
        {
            Meta(Math.Max(last, (long)Math.Round(marker.Seconds * 1_000_000 / microseconds * TicksPerQuarter)), 0x06, Encoding.UTF8.GetBytes(marker.Name));
        }
        Meta(last, 0x2F, []);
        var file = new byte[22 + track.Count];
        "MThd"u8.CopyTo(file);
        BinaryPrimitives.WriteInt32BigEndian(file.AsSpan(4), 6);
        BinaryPrimitives.WriteInt16BigEndian(file.AsSpan(10), 1);
        BinaryPrimitives.WriteInt16BigEndian(file.AsSpan(12), TicksPerQuarter);
        "MTrk"u8.CopyTo(file.AsSpan(14));
        BinaryPrimitives.WriteInt32BigEndian(file.AsSpan(18), track.Count);
        track.CopyTo(file, 22);
        return file;
    }

    /// <summary>The same, to be read by people: one line each.</summary>
    public IEnumerable<string> ToLines()
    {
        yield return Tempo is { } tempo ? string.Create(CultureInfo.InvariantCulture, $"Tempo       {tempo:0.###} quarters in a minute") : "Tempo       not known; the MIDI file says 120";
        yield return $"Signature   {Signature ?? "not known"}";
        if (Markers.IsEmpty)
        {
            yield return "Markers     none";
            yield break;
        }
        yield return "Markers";
        foreach (var marker in Markers)
        {
            yield return $"  {Clock(marker.Seconds)}  {marker.Name}";
        }
    }

    /// <summary>A quarter lasts so many microseconds; three bytes hold them.</summary>
    private int MicrosecondsPerQuarter => (int)Math.Clamp(Math.Round(MicrosecondsPerMinute / (Tempo ?? StandardTempo)), 1, MostMicroseconds);

    /// <summary>Beats in a bar, and the note that counts as one as a power of two; null where it cannot be written so.</summary>
    private (byte Beats, byte Power)? Parts() =>
        Signature?.Split('/') is [var over, var under] && byte.TryParse(over, NumberStyles.None, CultureInfo.InvariantCulture, out var beats) && beats > 0
            && int.TryParse(under, NumberStyles.None, CultureInfo.InvariantCulture, out var note) && note > 0 && int.IsPow2(note) && note <= 128
            ? (beats, (byte)int.Log2(note))
            : null;

    private static string Clock(double seconds)
    {
        var thousandths = (long)Math.Round(seconds * 1000);
        return string.Create(CultureInfo.InvariantCulture, $"{thousandths / 3_600_000}:{thousandths / 60_000 % 60:00}:{thousandths / 1000 % 60:00}.{thousandths % 1000:000}");
    }

    /// <summary>A number in groups of seven bits, the highest first ("variable-length quantity").</summary>
    private static void Variable(List<byte> to, long value)
    {
        var shift = 28;
        while (shift > 0 && value >> shift == 0)
        {
            shift -= 7;
        }
        for (; shift > 0; shift -= 7)
        {
            to.Add((byte)(0x80 | ((value >> shift) & 0x7F)));
        }
        to.Add((byte)(value & 0x7F));
    }

    /// <inheritdoc/>
    public bool Equals(TempoMap? other) => other is not null && (Name, Tempo, Signature) == (other.Name, other.Tempo, other.Signature) && Markers.SequenceEqual(other.Markers);

    /// <inheritdoc/>
    public override int GetHashCode() => HashCode.Combine(Name, Tempo, Signature, Markers.Length);
}
