using NeatCrate.Bench;

// Each benchmark works in a folder of its own below the given one (else below the system's temporary folder), and removes it.
var parent = args.Length > 0 ? args[0] : Path.GetTempPath();
var folder = Directory.CreateDirectory(Path.Combine(parent, $"neat-crate-bench-{Environment.ProcessId}")).FullName;
try
{
    Figures.Begin();
    ScanBench.Run(Path.Combine(folder, "scan"));
    CopyInBench.Run(Path.Combine(folder, "copy-in"));
    PeaksBench.Run(Path.Combine(folder, "peaks"));
}
finally
{
    Directory.Delete(folder, recursive: true);
}
