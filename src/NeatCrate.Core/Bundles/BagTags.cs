using System.Globalization;
using System.Text;
using NeatCrate.Core.Vault;

namespace NeatCrate.Core.Bundles;

/// <summary>The tag files of a BagIt bag, version 1.0 (RFC 8493).</summary>
public static class BagTags
{
    /// <summary>Name of the payload manifest (RFC 8493, section 2.1.3; SHA-512 as section 2.4 asks).</summary>
    public const string ManifestName = "manifest-sha512.txt";

    /// <summary>Name of the tag manifest (RFC 8493, section 2.2.1).</summary>
    public const string TagManifestName = "tagmanifest-sha512.txt";

    /// <summary>The bag declaration (RFC 8493, section 2.1.1).</summary>
    public static byte[] Declaration => "BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n"u8.ToArray();

    /// <summary>A manifest: a line for each file with its checksum in hexadecimal and its path from the bag's folder.</summary>
    public static byte[] Manifest(IEnumerable<(string Path, ContentHash Sha512)> files)
    {
        ArgumentNullException.ThrowIfNull(files);
        var text = new StringBuilder();
        foreach (var (path, sha512) in files)
        {
            text.Append(sha512.ToString()).Append("  ").Append(EncodePath(path)).Append('\n');
        }
        return Encoding.UTF8.GetBytes(text.ToString());
    }

    /// <summary>The paths that a manifest names.</summary>
    public static IEnumerable<string> Paths(byte[] manifest)
    {
        ArgumentNullException.ThrowIfNull(manifest);
        return Encoding.UTF8.GetString(manifest).Split(['\n', '\r'], StringSplitOptions.RemoveEmptyEntries).Where(l => l.Length > ContentHash.Digits).Select(l => DecodePath(l[ContentHash.Digits..].TrimStart()));
    }

    /// <summary><c>bag-info.txt</c>: metadata elements, one a line (RFC 8493, section 2.2.2).</summary>
    /// <param name="info">Labels and values; line breaks in a value become spaces.</param>
    /// <param name="payloadBytes">Bytes of all payload files.</param>
    /// <param name="payloadFiles">Number of payload files.</param>
    public static byte[] Info(IEnumerable<KeyValuePair<string, string>> info, long payloadBytes, int payloadFiles)
    {
        ArgumentNullException.ThrowIfNull(info);
        var text = new StringBuilder();
        foreach (var (label, value) in info)
        {
            text.Append(label).Append(": ").Append(string.Join(' ', value.Split(['\r', '\n'], StringSplitOptions.RemoveEmptyEntries))).Append('\n');
        }
        text.Append(CultureInfo.InvariantCulture, $"Payload-Oxum: {payloadBytes}.{payloadFiles}\n");
        return Encoding.UTF8.GetBytes(text.ToString());
    }

    /// <summary>LF, CR and % are percent-encoded in manifests, and only those (RFC 8493, section 2.1.3).</summary>
    public static string EncodePath(string path)
    {
        ArgumentNullException.ThrowIfNull(path);
        return path.Replace("%", "%25", StringComparison.Ordinal).Replace("\n", "%0A", StringComparison.Ordinal).Replace("\r", "%0D", StringComparison.Ordinal);
    }

    /// <summary>The path that a manifest writes so.</summary>
    public static string DecodePath(string path)
    {
        ArgumentNullException.ThrowIfNull(path);
        return path.Replace("%0A", "\n", StringComparison.OrdinalIgnoreCase).Replace("%0D", "\r", StringComparison.OrdinalIgnoreCase).Replace("%25", "%", StringComparison.Ordinal);
    }
}
