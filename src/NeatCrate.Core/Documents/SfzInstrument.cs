using System.Text;
using System.Text.RegularExpressions;
using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Documents;

/// <summary>
/// A sample instrument in the open SFZ text format (sfzformat.com, "sample" and "default_path"): headers in angle brackets,
/// opcodes as <c>name=value</c>, comments behind two slashes. The samples that it plays stand beside it.
/// </summary>
public sealed partial class SfzInstrument : IRepointable
{
    /// <summary>One of more bytes is not read: it holds something else.</summary>
    public const long MostBytes = 16L * 1024 * 1024;

    private readonly byte[] _bytes;
    private readonly List<Pointer> _pointers = [];

    private SfzInstrument(byte[] bytes)
    {
        _bytes = bytes;
        // Each byte is a character, so that a place in the text is a place in the file; the names are read as UTF-8.
        Find(Encoding.Latin1.GetString(bytes));
    }

    private sealed record Pointer(int Start, int Length, string Prefix, string Written)
    {
        public string Path => (Prefix + Written).Replace('\\', '/');

        public string? New { get; set; }

        public string Now => New ?? Path;

        // A prefix that ends within a name is put before whatever is written, so that no other name can be reached; and out of a folder
        // above nobody comes back without knowing what this one is called.
        public bool CanChange => Prefix.Length == 0 || (Prefix[^1] is '/' or '\\' && !Prefix.Contains("..", StringComparison.Ordinal));
    }

    /// <summary>The format.</summary>
    public static IDocumentFormat Format { get; } = new Reader();

    /// <inheritdoc/>
    public IReadOnlyList<MediaReference> References => _pointers.ConvertAll(Reference);

    /// <inheritdoc/>
    public bool MayPointElsewhere { get; private set; }

    /// <summary>True where each of its pointers can be made to lead anywhere.</summary>
    public bool CanBeRepointed => _pointers.TrueForAll(p => p.CanChange);

    /// <inheritdoc/>
    public int Repoint(Func<MediaReference, NewReference?> change)
    {
        ArgumentNullException.ThrowIfNull(change);
        var changed = 0;
        foreach (var pointer in _pointers)
        {
            if (change(Reference(pointer)) is { } reference && pointer.CanChange && reference.Url != pointer.Now)
            {
                pointer.New = reference.Url;
                changed++;
            }
        }
        return changed;
    }

    /// <inheritdoc/>
    public byte[] ToBytes()
    {
        using var written = new MemoryStream(_bytes.Length);
        var at = 0;
        foreach (var pointer in _pointers.Where(p => p.New is not null))
        {
            written.Write(_bytes, at, pointer.Start - at);
            written.Write(Encoding.UTF8.GetBytes(Behind(pointer)));
            at = pointer.Start + pointer.Length;
        }
        written.Write(_bytes, at, _bytes.Length - at);
        return written.ToArray();
    }

    /// <summary>What is written behind the prefix, so that the two lead to the new path: out of the prefix's folder and on from there.</summary>
    private static string Behind(Pointer pointer) =>
        pointer.Prefix.Length == 0 ? pointer.New! : Path.GetRelativePath("/" + pointer.Prefix.Replace('\\', '/'), "/" + pointer.New);

    private static MediaReference Reference(Pointer pointer) => new(pointer.Now, false, null, null, null, null, null);

    private void Find(string text)
    {
        var prefix = "";
        foreach (Match line in LinePattern().Matches(CommentPattern().Replace(text, m => new string(' ', m.Length))))
        {
            if (line.Value.Contains("#include", StringComparison.Ordinal) || line.Value.Contains('$', StringComparison.Ordinal))
            {
                // Other files and names for parts of names: what they lead to is not followed.
                MayPointElsewhere = true;
            }
            foreach (Match opcode in OpcodePattern().Matches(line.Value))
            {
                var value = opcode.Groups["value"];
                var written = Utf8(value.Value);
                if (opcode.Groups["name"].Value == "default_path")
                {
                    prefix = written;
                }
                // A star begins a sound that the player makes itself.
                else if (written.Length > 0 && written[0] != '*' && !written.Contains('$', StringComparison.Ordinal))
                {
                    _pointers.Add(new Pointer(line.Index + value.Index, value.Length, prefix, written));
                }
            }
        }
    }

    private static string Utf8(string bytes) => Encoding.UTF8.GetString(Encoding.Latin1.GetBytes(bytes));

    [GeneratedRegex(@"//[^\r\n]*|/\*.*?\*/", RegexOptions.Singleline)]
    private static partial Regex CommentPattern();

    [GeneratedRegex(@"[^\r\n]+")]
    private static partial Regex LinePattern();

    // A value goes to the next opcode, the next header or the end of the line, and may hold spaces.
    [GeneratedRegex(@"(?<![\w#])(?<name>sample|default_path)=(?<value>.*?)(?=\s+\w+=|\s*<|\s*$)")]
    private static partial Regex OpcodePattern();

    private sealed class Reader : IDocumentFormat
    {
        public string Name => "SFZ";

        public bool Recognises(string name) => name.Length > 0 && name[0] != '.' && Path.GetExtension(name).Equals(".sfz", StringComparison.OrdinalIgnoreCase);

        public IMediaPointers Read(byte[] bytes) => bytes.AsSpan().Contains((byte)0)
            ? throw new UnreadableDocumentException(new Fault(FaultCode.DocumentNotText) { Count = 1 })
            : new SfzInstrument(bytes);

        public IReadOnlyList<string> Candidates(string url, string folder) =>
            url.Length == 0 || url.Contains('\0', StringComparison.Ordinal) || url.StartsWith("//", StringComparison.Ordinal) ? [] : [Path.GetFullPath(url, folder)];

        public string PointerTo(string path, string folder) => Path.GetRelativePath(folder, path);
    }
}
