using System.Text;

namespace NeatCrate.Core.Vault;

/// <summary>Where things stand in a vault (docs/formats.md, "Vault").</summary>
public static class VaultNames
{
    /// <summary>The vault's folder at the top of its shelf.</summary>
    public const string FolderName = "Neat Crate vault";

    /// <summary>The text at the top, by which a vault is known.</summary>
    public const string ReadMe = "README.txt";

    /// <summary>What all content begins with.</summary>
    public const string Content = "content/";

    /// <summary>What all manifests begin with.</summary>
    public const string Backups = "backups/";

    /// <summary>What states of each backup that was let go that it was.</summary>
    public const string LetGo = "let-go/";

    /// <summary>What tells this vault from all others.</summary>
    public const string Identity = "identity.json";

    private const string Extension = ".sha512";

    /// <summary>The one text that the README of a vault of this format holds.</summary>
    public static ReadOnlyMemory<byte> ReadMeText { get; } = Encoding.UTF8.GetBytes(
        """
        Neat Crate vault, format 1

        This folder holds backups of recording sessions. Nothing in it is packed or encrypted.

        backups/<session>/<time>.sha512   one backup each: the list of its files, with the SHA-512 of each
        content/<2 digits>/<SHA-512>      the files themselves, each once, named by their SHA-512

        To check a backup, in this folder (M is its list):

          sed -nE 's|^\\?(([0-9a-f]{2})[0-9a-f]{126})  .*|\1  content/\2/\1|p' "$M" | sha512sum -c --quiet

        To take one out by hand, into /new/place:

          grep -vE '^(#|\\)' "$M" | while IFS= read -r line; do
            h=${line%%  *}; f=${line#*  }; mkdir -p "/new/place/$(dirname "$f")"
            cp "content/${h%"${h#??}"}/$h" "/new/place/$f"
          done
          cp "$M" /new/place.sha512; cd /new/place && sha512sum -c --quiet ../place.sha512

        Lines that begin with a backslash hold names with a line feed, a carriage return or a backslash, written as
        sha512sum writes them. Please rename, move and delete nothing in here.

        """);

    /// <summary>The object that holds content.</summary>
    public static string Of(ContentHash hash)
    {
        var digits = hash.ToString();
        return $"{Content}{digits[..2]}/{digits}";
    }

    /// <summary>The folder of the vault that a content stands in.</summary>
    /// <param name="path">Absolute path of the content.</param>
    /// <param name="hash">What it holds.</param>
    public static string StoreOf(string path, ContentHash hash)
    {
        ArgumentNullException.ThrowIfNull(path);
        return path.EndsWith("/" + Of(hash), StringComparison.Ordinal) ? path[..^(Of(hash).Length + 1)] : throw new ArgumentException("It is no content of a vault.", nameof(path));
    }

    /// <summary>The content that an object of this name must hold.</summary>
    /// <returns>False for a name that is none of a content.</returns>
    public static bool TryHash(string name, out ContentHash hash)
    {
        ArgumentNullException.ThrowIfNull(name);
        hash = default;
        return name.Length == Content.Length + 3 + ContentHash.Digits && name.StartsWith(Content, StringComparison.Ordinal) && name[Content.Length + 2] == '/'
            && name.AsSpan(Content.Length, 2).SequenceEqual(name.AsSpan(Content.Length + 3, 2)) && ContentHash.TryParse(name.AsSpan(Content.Length + 3), out hash);
    }

    /// <summary>The manifest of a backup.</summary>
    /// <param name="folder">Portable name of the session folder.</param>
    /// <param name="stamp">Its local time, with a number behind where another one has it.</param>
    public static string Manifest(string folder, string stamp) => $"{Backups}{folder}/{stamp}{Extension}";

    /// <summary>What states that the backup of a manifest was let go.</summary>
    public static string LetGoOf(string manifest)
    {
        ArgumentNullException.ThrowIfNull(manifest);
        return IsManifest(manifest) ? LetGo + manifest[Backups.Length..] : throw new ArgumentException("It is no manifest.", nameof(manifest));
    }

    /// <summary>True for a name that something of a vault may have, beside its README.</summary>
    internal static bool IsOurs(string name) => name == Identity || TryHash(name, out _) || IsManifest(name) || name.StartsWith(LetGo, StringComparison.Ordinal);

    /// <summary>The manifests of a store, in no order.</summary>
    public static IEnumerable<StoredObject> Manifests(IObjectStore store)
    {
        ArgumentNullException.ThrowIfNull(store);
        return store.List(Backups).Where(o => IsManifest(o.Name));
    }

    /// <summary>True for the name of a manifest.</summary>
    public static bool IsManifest(string name)
    {
        ArgumentNullException.ThrowIfNull(name);
        return name.StartsWith(Backups, StringComparison.Ordinal) && name.EndsWith(Extension, StringComparison.Ordinal) && name.Count(c => c == '/') == 2;
    }
}
