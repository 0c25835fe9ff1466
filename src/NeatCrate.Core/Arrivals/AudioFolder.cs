using NeatCrate.Core.Inventory;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;

namespace NeatCrate.Core.Arrivals;

/// <summary>The folder in a session that files are brought into.</summary>
internal static class AudioFolder
{
    private const string Instead = "Audio inside";

    /// <summary>
    /// Absolute path of the session's audio folder; where that is a link that leads out of the session, of a folder that
    /// stands inside: what is copied in must be in.
    /// </summary>
    public static string In(SessionInventory inventory)
    {
        var audio = Path.Combine(inventory.Folder, inventory.Layout.Audio);
        if (IsInside(audio, inventory.Folder))
        {
            return audio;
        }
        var instead = Path.Combine(inventory.Folder, Instead);
        return IsInside(instead, inventory.Folder) && !File.Exists(instead) ? instead : Path.Combine(inventory.Folder, FreeNames.In(inventory.Folder).Claim(Instead));
    }

    private static bool IsInside(string path, string folder) => ShelfPath.IsWithin(RealPath.Of(path), RealPath.Of(folder));
}
