using System.Text;
using NeatCrate.Core.Vault;

namespace NeatCrate.Core.Bundles;

/// <summary>A sound file as it was before it was packed.</summary>
/// <param name="Packed">Path of the packed one from the bag's folder.</param>
/// <param name="Path">Path that it has once it is brought back.</param>
/// <param name="Sha512">What it held.</param>
/// <param name="IsPlainWave">True where the reference tool has to be told that its format is written the short way.</param>
internal sealed record OriginalSound(string Packed, string Path, ContentHash Sha512, bool IsPlainWave);

/// <summary>What stands in a bag with packed sound so that anybody can bring the files back bit for bit, with nothing of ours: a list of check sums, and the commands.</summary>
internal static class OriginalSounds
{
    /// <summary>Name of the list, which has the form of a manifest.</summary>
    public const string ListName = "originals-sha512.txt";

    /// <summary>Name of the script.</summary>
    public const string ScriptName = "bring-back-sound.sh";

    /// <summary>The list.</summary>
    public static byte[] List(IEnumerable<OriginalSound> sounds) => BagTags.Manifest(sounds.Select(s => (s.Path, s.Sha512)));

    /// <summary>Commands for any POSIX shell: the reference tool brings each file back beside the packed one, and never over one that is there; then all are checked.</summary>
    public static byte[] Script(IEnumerable<OriginalSound> sounds)
    {
        var text = new StringBuilder("#!/bin/sh\n# Brings the packed sound back bit for bit, beside the packed files. It is run in this folder, and needs flac.\n");
        foreach (var sound in sounds)
        {
            text.Append("flac --decode --silent --keep-foreign-metadata ").Append(sound.IsPlainWave ? "--force-legacy-wave-format " : "").Append("-o ").Append(Quoted(sound.Path)).Append(' ').Append(Quoted(sound.Packed)).Append('\n');
        }
        return Encoding.UTF8.GetBytes(text.Append("sha512sum -c ").Append(ListName).Append('\n').ToString());
    }

    /// <summary>A name for a POSIX shell ("Single-Quotes"): nothing between them means anything but itself.</summary>
    internal static string Quoted(string text) => $"'{text.Replace("'", "'\\''", StringComparison.Ordinal)}'";
}
