using System.Collections.Immutable;

namespace NeatCrate.Core.Media;

/// <summary>How one sample is stored.</summary>
public enum SampleEncoding
{
    /// <summary>Unsigned integers, as 8-bit WAV has them.</summary>
    UnsignedInteger,

    /// <summary>Two's complement integers.</summary>
    SignedInteger,

    /// <summary>IEEE 754 floating point.</summary>
    FloatingPoint,

    /// <summary>A compressed or otherwise encoded stream whose samples cannot be addressed by bytes.</summary>
    Encoded,
}

/// <summary>A RIFF chunk as it stands in the file: identifier, offset of its body and length of its body, both in bytes.</summary>
public sealed record ChunkInfo(string Id, long Offset, long Bytes);

/// <summary>What the header of an audio file says, checked against the bytes that are really there.</summary>
public sealed record MediaHeader
{
    /// <summary>Name of the format: <c>WAV</c>, <c>RF64</c>, <c>BW64</c>, <c>AIFF</c>, <c>AIFC</c>, <c>FLAC</c>, <c>Ogg Vorbis</c>, <c>Ogg Opus</c>, <c>Ogg FLAC</c>, <c>MP3</c>, <c>CAF</c>, <c>AAC</c>.</summary>
    public required string Container { get; init; }

    /// <summary>How samples are stored.</summary>
    public required SampleEncoding Encoding { get; init; }

    /// <summary>True where the bytes of a sample stand the highest first.</summary>
    public bool BigEndian { get; init; }

    /// <summary>Sample rate in Hz.</summary>
    public required int SampleRate { get; init; }

    /// <summary>Number of channels.</summary>
    public required int Channels { get; init; }

    /// <summary>Meaningful bits per sample; 0 for encoded streams that have none.</summary>
    public required int BitsPerSample { get; init; }

    /// <summary>Bytes of one sample of all channels together (the block alignment).</summary>
    public required int FrameBytes { get; init; }

    /// <summary>Length in samples per channel, or null where the header does not tell.</summary>
    public required long? LengthSamples { get; init; }

    /// <summary>Where the audio data starts, in bytes from the start of the file.</summary>
    public required long DataOffset { get; init; }

    /// <summary>Bytes of audio data that are really in the file.</summary>
    public required long DataBytes { get; init; }

    /// <summary>The Broadcast Wave extension, where the file has one.</summary>
    public BroadcastExtension? Broadcast { get; init; }

    /// <summary>Every chunk in file order, unknown ones too.</summary>
    public ImmutableArray<ChunkInfo> Chunks { get; init; } = [];

    /// <summary>Texts that the file carries about itself.</summary>
    public ImmutableArray<MediaTag> Tags { get; init; } = [];

    /// <summary>What the recorder wrote in iXML, where the file has it.</summary>
    public Ixml? Ixml { get; init; }

    /// <summary>True where the sizes were never written or point past the end: a recording that was cut off.</summary>
    public bool Unfinished { get; init; }

    /// <summary>What is odd about the file.</summary>
    public ImmutableArray<Fault> Remarks { get; init; } = [];

    /// <summary>Length in seconds, or null where the length is unknown.</summary>
    public double? LengthSeconds => LengthSamples / (double)SampleRate;
}

/// <summary>
/// The <c>bext</c> chunk of a Broadcast Wave file (EBU Tech 3285, version 2).
/// </summary>
/// <param name="Description">Free description of the sound, at most 256 characters.</param>
/// <param name="Originator">Who or what made the file, at most 32 characters.</param>
/// <param name="OriginatorReference">Reference given by the originator, at most 32 characters.</param>
/// <param name="OriginationDate">Date of making, as <c>yyyy-MM-dd</c>.</param>
/// <param name="OriginationTime">Time of making, as <c>HH:mm:ss</c>.</param>
/// <param name="TimeReference">Samples since midnight at the file's own rate (64 bits).</param>
/// <param name="Version">Version of the chunk: 0, 1 or 2.</param>
/// <param name="CodingHistory">Lines that tell how the sound was coded.</param>
public sealed record BroadcastExtension(
    string Description,
    string Originator,
    string OriginatorReference,
    string OriginationDate,
    string OriginationTime,
    ulong TimeReference,
    int Version = 1,
    string CodingHistory = "");

/// <summary>The file is not what it claims to be, or is of a kind that is not read.</summary>
public sealed class UnreadableMediaException : FaultException
{
    /// <summary>Makes the exception with what is wrong with the file.</summary>
    public UnreadableMediaException(Fault fault, Exception? inner = null) : base(fault, inner)
    {
    }

    /// <summary>Makes the exception with what a library says of the file.</summary>
    public UnreadableMediaException(string message) : base(new Fault(FaultCode.MediaUnreadable) { Detail = message })
    {
    }

    /// <summary>Makes the exception with what a library says of the file, and its cause.</summary>
    public UnreadableMediaException(string message, Exception inner) : base(new Fault(FaultCode.MediaUnreadable) { Detail = message }, inner)
    {
    }

    /// <summary>Makes the exception without a reason.</summary>
    public UnreadableMediaException() : base(new Fault(FaultCode.MediaUnreadable))
    {
    }
}
