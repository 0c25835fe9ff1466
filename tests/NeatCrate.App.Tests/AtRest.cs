using NeatCrate.App.Relink;
using NeatCrate.Testing;

namespace NeatCrate.App.Tests;

/// <summary>What is read while nobody needs the disk, read now.</summary>
internal static class AtRest
{
    /// <summary>Reads all that is due. The work gives way to any other, so it may have to begin more than once.</summary>
    /// <param name="app">The application.</param>
    /// <param name="cancel">Gives up.</param>
    /// <returns>How many files were due at first.</returns>
    public static async Task<int> Read(RunningApp app, CancellationToken cancel)
    {
        var due = 0;
        while (((HostedApp)app).Service<IdentitiesAtRest>().Begin(cancel) is { } reading)
        {
            var ended = await reading.Ended.WaitAsync(cancel);
            due = Math.Max(due, ended.Files);
        }
        return due;
    }
}
