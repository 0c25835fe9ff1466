namespace NeatCrate.Core.Media;

/// <summary>A text that a file carries about itself.</summary>
/// <param name="Name">What it is, in capitals, as Vorbis comments have it: <c>TITLE</c>, <c>ARTIST</c>.</param>
/// <param name="Value">The text.</param>
public sealed record MediaTag(string Name, string Value)
{
    /// <summary>The text of a tag, as <see cref="MediaText.Of"/> has it, without space around it.</summary>
    public static string Text(ReadOnlySpan<byte> bytes) => MediaText.Of(bytes).Trim();
}
