using System.Collections.Immutable;
using System.Globalization;
using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Vault;

/// <summary>A full backup in the list of a vault.</summary>
/// <param name="Name">Name of its manifest.</param>
/// <param name="Header">What it says of itself; null where it cannot be read.</param>
/// <param name="Problem">Why not.</param>
public sealed record ListedBackup(string Name, BackupHeader? Header, Fault? Problem);

/// <summary>The full backups of sessions in one store, append-only: see docs/formats.md, "Vault".</summary>
/// <param name="store">Where it is.</param>
public sealed class BackupVault(IObjectStore store)
{
    // What a manifest says of itself stands at its beginning; of a long note or list it is read on.
    private const int HeaderBytes = 4096;

    /// <summary>Where it is.</summary>
    public IObjectStore Store => store;

    /// <summary>Holds all other writers off, and makes sure that this is a vault that we know how to write.</summary>
    /// <exception cref="FaultException">Another writer is at work, or the vault is of another format (<see cref="FaultCode.VaultOfOtherFormat"/>).</exception>
    public IDisposable LockToWrite()
    {
        var held = store.Lock();
        try
        {
            if (store.Size(VaultNames.ReadMe) is null)
            {
                RequireNoOther();
                store.Put(VaultNames.ReadMe, VaultNames.ReadMeText.Span);
                store.Flush();
            }
            else
            {
                RequireFormat();
            }
            return held;
        }
        catch
        {
            held.Dispose();
            throw;
        }
    }

    /// <summary>Its backups, the newest first. Reads the beginning of each manifest.</summary>
    public ImmutableArray<ListedBackup> Backups() =>
        [.. store.List(VaultNames.Backups).Where(o => VaultNames.IsManifest(o.Name)).Select(o => Listed(o.Name)).OrderByDescending(b => b.Header?.Made ?? DateTime.MinValue).ThenByDescending(b => b.Name, StringComparer.Ordinal)];

    /// <summary>Names of manifests of which a damaged one stands aside, because its mending was cut off.</summary>
    public IEnumerable<string> ManifestsAside() =>
        store.List($"{IObjectStore.Damaged}/{VaultNames.Backups}").Select(o => o.Name[(IObjectStore.Damaged.Length + 1)..]).Where(VaultNames.IsManifest);

    /// <summary>A backup with all its files.</summary>
    /// <exception cref="FaultException">There is none of this name, or it cannot be read.</exception>
    public BackupManifest Manifest(string name) => BackupManifest.Read(store.Read(name), $"{store.Place}/{name}");

    /// <summary>A name for a new backup that no other one has.</summary>
    internal string FreeName(string sessionFolder, DateTime madeLocal)
    {
        var folder = PortableName.Suggest(sessionFolder);
        var stamp = Stamp(madeLocal);
        var name = VaultNames.Manifest(folder, stamp);
        for (var n = 2; store.Size(name) is not null; n++)
        {
            name = VaultNames.Manifest(folder, $"{stamp} ({n})");
        }
        return name;
    }

    /// <summary>A local time as names carry it.</summary>
    public static string Stamp(DateTime local) => local.ToString("yyyy-MM-dd_HHmmss", CultureInfo.InvariantCulture);

    /// <summary>What a manifest says of itself.</summary>
    public ListedBackup Listed(string name)
    {
        var place = $"{store.Place}/{name}";
        try
        {
            using var stream = store.Open(name);
            var bytes = new byte[Math.Min(HeaderBytes, stream.Length)];
            stream.ReadExactly(bytes);
            while (bytes.AsSpan().Count((byte)'\n') < 2 && bytes.Length < stream.Length)
            {
                var more = new byte[Math.Min(2L * bytes.Length, stream.Length)];
                bytes.CopyTo(more, 0);
                stream.ReadExactly(more.AsSpan(bytes.Length));
                bytes = more;
            }
            return new ListedBackup(name, BackupManifest.ReadHeader(bytes, place), null);
        }
        catch (FaultException e)
        {
            return new ListedBackup(name, null, e.Fault);
        }
    }

    /// <summary>A README that is only damaged is mended by the check; one of another format is left alone, and so is all of its vault.</summary>
    private void RequireFormat()
    {
        var text = store.Read(VaultNames.ReadMe);
        var first = text.AsSpan(0, Math.Max(0, text.AsSpan().IndexOf((byte)'\n')));
        var ours = VaultNames.ReadMeText.Span;
        // Whatever another format is, its text says more of it than a digit that fell over.
        var isOnlyDamaged = text.Length == ours.Length && text.AsSpan(first.Length).SequenceEqual(ours[first.Length..]);
        if (first.StartsWith("Neat Crate vault, format "u8) && !ours.StartsWith(first) && !isOnlyDamaged)
        {
            throw new FaultException(FaultCode.VaultOfOtherFormat, store.Place);
        }
    }

    /// <summary>A folder of this name that somebody else filled is no vault of ours. A vault whose README went is one.</summary>
    private void RequireNoOther()
    {
        if (store.List("").FirstOrDefault(o => !VaultNames.TryHash(o.Name, out _) && !VaultNames.IsManifest(o.Name)) is { Name: { } other })
        {
            throw new FaultException(new Fault(FaultCode.NoVault) { Path = store.Place, Name = other });
        }
    }
}
