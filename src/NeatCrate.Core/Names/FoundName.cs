using System.Collections.Immutable;

namespace NeatCrate.Core.Names;

/// <summary>As which text the bytes of a name were read.</summary>
public enum NameEncoding
{
    /// <summary>UTF-8, plain ASCII with it.</summary>
    Utf8,

    /// <summary>UTF-16, the lower byte first.</summary>
    Utf16LittleEndian,

    /// <summary>UTF-16, the higher byte first.</summary>
    Utf16BigEndian,

    /// <summary>None of these: an encoding of one or two bytes a character, of which the bytes do not say which.</summary>
    Legacy,
}

/// <summary>One way to read what stands at a place: where a name begins cannot always be told from the bytes alone.</summary>
/// <param name="Path">The path, read once: names are followed again at every look.</param>
/// <param name="Text">The name with its folders, unescaped.</param>
/// <param name="Left">What stands before it in the same run of text, digits written as 0: names that a program writes alike stand behind the same.</param>
public readonly record struct NameReading(WrittenPath Path, string Text, string Left)
{
    /// <summary>Begins <see cref="Left"/> where it is only supposed that something stands before the name: by itself that says nothing.</summary>
    public const string Skipped = "\u0002";

    /// <summary>True for such a reading.</summary>
    public bool IsSupposed => Left.StartsWith(Skipped, StringComparison.Ordinal);
}

/// <summary>A media file that a document names.</summary>
/// <param name="Readings">How it may be read, the likeliest first; at least one.</param>
/// <param name="Encoding">As which text its bytes were read.</param>
/// <param name="Container">What it was packed in, from the outside in, as "gzip" or "ZIP: score.xml"; empty where it stands in the bytes themselves.</param>
/// <param name="Times">How often it stands there.</param>
/// <param name="IsLeftOver">True where it stands only where a program leaves what it does not use any more: free pages, and parts that are called undo or redo.</param>
/// <param name="IsTail">True where it may be the rest of a longer name, behind the end of a shorter one that was written over it.</param>
/// <param name="Beside">For a name without a folder: the texts that stand beside it, one of which may be the folder.</param>
public sealed record FoundName(
    ImmutableArray<NameReading> Readings, NameEncoding Encoding, string Container, int Times, bool IsLeftOver, bool IsTail, ImmutableArray<string> Beside);

/// <summary>All that was found in a document.</summary>
/// <param name="Names">The names.</param>
/// <param name="IsWhole">False where a bound was reached before all of it was looked through.</param>
/// <param name="IsMention">True where it only mentions files: a log, or what we wrote ourselves. It is no document.</param>
/// <param name="IsList">True where each line may be the name of a file and nothing else: it is no document where files are called so.</param>
/// <param name="IsText">True where the document seems to be text, so that a new version of it may name files elsewhere.</param>
public sealed record FoundNames(ImmutableArray<FoundName> Names, bool IsWhole, bool IsMention = false, bool IsList = false, bool IsText = false);
