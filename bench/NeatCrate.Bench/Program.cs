using NeatCrate.Bench;

// Each benchmark works in a folder of its own below the given one (else below the system's temporary folder), and removes it.
// Further arguments name those that are run; none means all.
var parent = args.Length > 0 ? args[0] : Path.GetTempPath();
var folder = Directory.CreateDirectory(Path.Combine(parent, $"neat-crate-bench-{Environment.ProcessId}")).FullName;
try
{
    Figures.Begin();
    var wanted = args.Skip(1).ToHashSet(StringComparer.Ordinal);
    foreach (var (name, run) in new (string, Action<string>)[] { ("scan", ScanBench.Run), ("search", SearchBench.Run), ("relink", RelinkBench.Run), ("relink-again", RelinkAgainBench.Run), ("purge", PurgeBench.Run), ("vault", VaultBench.Run), ("copy-in", CopyInBench.Run), ("peaks", PeaksBench.Run), ("convert", ConvertBench.Run), ("print", PrintBench.Run), ("bundle", BundleBench.Run), ("bundle-memory", BundleBench.Memory), ("loading-bay", SessionsBench.LoadingBay), ("found-sessions", SessionsBench.Found), ("large-session", SessionsBench.Large), ("at-rest", SessionsBench.AtRest), ("memory", MemoryBench.Run), ("names", NamesBench.Run) })
    {
        if (wanted.Count == 0 || wanted.Contains(name))
        {
            run(Path.Combine(folder, name));
        }
    }
}
finally
{
    Directory.Delete(folder, recursive: true);
}
