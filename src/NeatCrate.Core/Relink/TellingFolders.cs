using System.Collections.Frozen;
using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Relink;

/// <summary>Which names of folders tell anything: "Audio", "Takes" and "Kit 2" stand in every studio.</summary>
public static class TellingFolders
{
    // Folders that sessions, songs, packs and cards have everywhere (from memory): that two are called so tells nothing.
    private static readonly FrozenSet<string> FoundEverywhere = new[]
    {
        SessionLayout.Default.Audio, SessionLayout.Default.Bounces, "Audio files", "Bass", "Drums", "Exports", "Files", "Fx", "Guitars", "Hats", "Imports", "Keys", "Kicks", "Kits", "Loops", "Media", "Mixes",
        "Music", "One shots", "Percussion", "Recorded", "Recordings", "Renders", "Samples", "Session", "Snares", "Song", "Sounds", "Stems", "Strings", "Synths", "Takes", "Tracks", "Vocals", "Voice", "Wav", "Wave",
    }.Select(LooseName.OfFolder).ToFrozenSet(StringComparer.Ordinal);

    /// <summary>True where of the folders right above both that have the same names one is called by more than a number, or than what is found everywhere.</summary>
    public static bool AreShared(ComparedPath lost, ComparedPath found)
    {
        ArgumentNullException.ThrowIfNull(lost);
        foreach (var folder in lost.Folders[^lost.CommonFolders(found)..])
        {
            if (!LooseName.EndsInANumber(folder) && !FoundEverywhere.Contains(LooseName.OfFolder(folder)))
            {
                return true;
            }
        }
        return false;
    }
}
