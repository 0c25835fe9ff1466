using System.ComponentModel;
using System.Diagnostics;

namespace NeatCrate.App.Sessions;

/// <summary>Shows folders in the machine's own file manager. The pages run on the machine itself, so that whoever asks sits before it.</summary>
public sealed class FolderShower
{
    /// <summary>So long it is waited for whether the program ends with a failure; one that goes on running shows the folder.</summary>
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(2);

    /// <summary>What opens a folder with whatever the user's desktop has for it (freedesktop.org, xdg-utils).</summary>
    public string Program { get; init; } = "xdg-open";

    /// <summary>Shows a folder.</summary>
    /// <param name="folder">Its absolute path.</param>
    /// <exception cref="FaultException">No program of this machine shows it (<see cref="FaultCode.FolderNotShown"/>).</exception>
    public async Task Show(string folder, CancellationToken cancel)
    {
        try
        {
            // Its output is not taken: a program that goes on showing the folder would write into a pipe that nobody reads, and end by it.
            using var program = Process.Start(new ProcessStartInfo(Program, [folder]));
            if (program is null || !await IsShown(program, cancel))
            {
                throw NotShown(folder);
            }
        }
        catch (Win32Exception)
        {
            throw NotShown(folder);
        }
    }

    private static async Task<bool> IsShown(Process program, CancellationToken cancel)
    {
        using var patience = CancellationTokenSource.CreateLinkedTokenSource(cancel);
        patience.CancelAfter(Patience);
        try
        {
            await program.WaitForExitAsync(patience.Token);
            return program.ExitCode == 0;
        }
        catch (OperationCanceledException) when (!cancel.IsCancellationRequested)
        {
            return true;
        }
    }

    private static FaultException NotShown(string folder) => new(new Fault(FaultCode.FolderNotShown) { Path = folder });
}
