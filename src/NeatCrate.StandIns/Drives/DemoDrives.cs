namespace NeatCrate.StandIns.Drives;

/// <summary>
/// The demo's removable drives, simulated: one that is unplugged waits in a folder beside the shelves, and comes back as it
/// left. Part of the outside world, as a hand on a cable is.
/// </summary>
public static class DemoDrives
{
    private const string Plugged = "shelves";
    private const string Unplugged = "unplugged";

    /// <summary>True when a shelf is a drive of the demo, plugged in or not.</summary>
    /// <param name="demoRoot">Absolute path of the demo's folder.</param>
    /// <param name="shelfRoot">Absolute path of the shelf's top folder.</param>
    public static bool IsOne(string demoRoot, string shelfRoot) => Path.GetDirectoryName(shelfRoot) == Path.Combine(demoRoot, Plugged);

    /// <summary>Takes a drive away. What has files open on it goes on writing into nowhere, as on a real one.</summary>
    /// <exception cref="IOException">The drive is not plugged in.</exception>
    public static void Unplug(string demoRoot, string shelfRoot)
    {
        Directory.CreateDirectory(Path.Combine(demoRoot, Unplugged));
        Directory.Move(shelfRoot, Path.Combine(demoRoot, Unplugged, Path.GetFileName(shelfRoot)));
    }

    /// <summary>Brings a drive back.</summary>
    /// <exception cref="IOException">The drive is plugged in already, or was never there.</exception>
    public static void Plug(string demoRoot, string shelfRoot) =>
        Directory.Move(Path.Combine(demoRoot, Unplugged, Path.GetFileName(shelfRoot)), shelfRoot);
}
