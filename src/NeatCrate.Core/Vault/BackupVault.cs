using System.Collections.Immutable;
using System.Globalization;
using System.Text;
using System.Text.Json;
using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Vault;

/// <summary>A full backup in the list of a vault.</summary>
/// <param name="Name">Name of its manifest.</param>
/// <param name="Header">What it says of itself; null where it cannot be read.</param>
/// <param name="Problem">Why not.</param>
public sealed record ListedBackup(string Name, BackupHeader? Header, Fault? Problem)
{
    /// <summary>
    /// When it was made (UTC), and not before any that the vault had by then: what follows what is told by the vault's own count, whatever
    /// the clock said. The earliest time of all where it cannot be read.
    /// </summary>
    public DateTime Follows { get; init; } = Header?.Made ?? DateTime.MinValue;
}

/// <summary>The full backups of sessions in one store, append-only: see docs/formats.md, "Vault".</summary>
/// <param name="store">Where it is.</param>
public sealed class BackupVault(IObjectStore store)
{
    // What a manifest says of itself stands at its beginning; of a long note or list it is read on, to an end.
    private const int HeaderBytes = 4096;
    private const int MostHeaderBytes = 64 * 1024 * 1024;

    // Beside its files a manifest has lines for folders and pointers: for more of these than any session has.
    private const long MostBytesBeside = 32L * 1024 * 1024;

    // A path of 4,096 bytes (Linux, PATH_MAX) for the file and one for where it stood outside, the longest that both can be written.
    private const long MostBytesOfFile = 40 * 1024;

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
            if (Identity() is null)
            {
                Identify(Guid.NewGuid());
            }
            return held;
        }
        catch
        {
            held.Dispose();
            throw;
        }
    }

    /// <summary>What tells this vault from all others; null where that is gone, damaged, or was not written down yet.</summary>
    public Guid? Identity()
    {
        const int MostIdentityBytes = 4096;
        if (store.Size(VaultNames.Identity) is not (> 0 and <= MostIdentityBytes))
        {
            return null;
        }
        try
        {
            // It vouches for itself: one that a failing drive altered would pass for that of another vault.
            return JsonSerializer.Deserialize<Dictionary<string, string>>(store.Read(VaultNames.Identity)) is { } text && text.TryGetValue("vault", out var id) && text.GetValueOrDefault("sha512") == Vouching(id)
                ? Guid.Parse(id)
                : null;
        }
        catch (Exception e) when (e is JsonException or FormatException || (e is FaultException refused && VaultCheck.IsUnreadable(refused)))
        {
            return null;
        }
    }

    /// <summary>Writes down what tells it from all others.</summary>
    internal void Identify(Guid identity)
    {
        var bytes = JsonSerializer.SerializeToUtf8Bytes(new Dictionary<string, string> { ["vault"] = identity.ToString(), ["sha512"] = Vouching(identity.ToString()) });
        using var made = store.Begin(bytes.Length);
        made.Write(bytes);
        made.Keep(VaultNames.Identity, replaces: true);
        store.Flush();
    }

    /// <summary>Makes sure that no other vault came to stand in its place, as where a drive is changed while something long runs.</summary>
    /// <param name="before">What told it from all others then; null where nothing did.</param>
    /// <exception cref="FaultException">Another one stands there (<see cref="FaultCode.VaultExchanged"/>).</exception>
    public void RequireSame(Guid? before)
    {
        if (before is { } was && Identity() is { } now && now != was)
        {
            throw new FaultException(FaultCode.VaultExchanged, store.Place);
        }
    }

    private static string Vouching(string identity) => ContentHash.Of(Encoding.UTF8.GetBytes(identity)).ToString();

    /// <summary>True where the backup of a manifest was let go, and did not merely vanish.</summary>
    public bool WasLetGo(string manifest) => store.Size(VaultNames.LetGoOf(manifest)) is not null;

    /// <summary>Its backups, the newest first. Reads the beginning of each manifest.</summary>
    public ImmutableArray<ListedBackup> Backups()
    {
        var all = VaultNames.Manifests(store).Select(o => Listed(o.Name))
            .OrderBy(b => b.Header?.Number ?? 0).ThenBy(b => b.Header?.Made ?? DateTime.MinValue).ThenBy(b => b.Name, StringComparer.Ordinal).ToArray();
        var at = DateTime.MinValue;
        for (var n = 0; n < all.Length; n++)
        {
            at = all[n].Header is null || all[n].Follows > at ? all[n].Follows : at.AddTicks(1);
            all[n] = all[n] with { Follows = at };
        }
        Array.Reverse(all);
        return [.. all];
    }

    /// <summary>Names of manifests of which a damaged one stands aside, because its mending was cut off.</summary>
    public IEnumerable<string> ManifestsAside() =>
        store.List($"{IObjectStore.Damaged}/{VaultNames.Backups}").Select(o => o.Name[(IObjectStore.Damaged.Length + 1)..]).Where(VaultNames.IsManifest);

    /// <summary>A backup with all its files.</summary>
    /// <exception cref="FaultException">There is none of this name, or it cannot be read.</exception>
    public BackupManifest Manifest(string name) => BackupManifest.Read(Bytes(name), $"{store.Place}/{name}");

    /// <summary>The bytes of a manifest. One that is larger than what it says of itself allows is damaged, and is not read.</summary>
    /// <exception cref="FaultException">There is none of this name, or it cannot be read.</exception>
    internal byte[] Bytes(string name)
    {
        if (store.Size(name) is > MostBytesBeside and var bytes && (Listed(name) is not { Header: { } header } || bytes > MostBytesBeside + (header.Files * MostBytesOfFile)))
        {
            throw new FaultException(new Fault(FaultCode.ManifestDamaged) { Path = $"{store.Place}/{name}", Detail = "It is larger than a list of its files can be." });
        }
        return store.Read(name);
    }

    /// <summary>Names of the manifests, those that are damaged among them.</summary>
    /// <exception cref="FaultException">The vault cannot be looked into.</exception>
    public IReadOnlyList<string> ManifestNames() => [.. VaultNames.Manifests(store).Select(o => o.Name)];

    /// <summary>
    /// A backup with all its files, which must be the one that is remembered under this name: of two that were swapped each is whole, and what
    /// is known of the one would be done to the other.
    /// </summary>
    /// <param name="name">Its name.</param>
    /// <param name="remembered">What is remembered of this vault; null where nothing is.</param>
    /// <exception cref="FaultException">There is none of this name, it cannot be read, or it is another (<see cref="FaultCode.ManifestDamaged"/>).</exception>
    internal BackupManifest ManifestAsRemembered(string name, BackupVault? remembered)
    {
        var bytes = Bytes(name);
        return remembered is not null && remembered.Store.Size(name) is not null && IsOther(bytes, name, remembered)
            ? throw new FaultException(new Fault(FaultCode.ManifestDamaged) { Path = $"{store.Place}/{name}", Detail = "It is another list than the one of this name." })
            : BackupManifest.Read(bytes, $"{store.Place}/{name}");
    }

    private static bool IsOther(ReadOnlySpan<byte> bytes, string name, BackupVault remembered)
    {
        try
        {
            return !bytes.SequenceEqual(remembered.Bytes(name)) && remembered.Manifest(name) is not null;
        }
        catch (FaultException)
        {
            // What is damaged here says nothing of what is there.
            return false;
        }
    }

    /// <summary>A name for a new backup that no other one has.</summary>
    internal string FreeName(string sessionFolder, DateTime madeLocal)
    {
        var folder = PortableName.Suggest(sessionFolder);
        var stamp = Stamp(madeLocal);
        var name = VaultNames.Manifest(folder, stamp);
        for (var n = 2; store.Size(name) is not null || WasLetGo(name); n++)
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
            while (bytes.AsSpan().Count((byte)'\n') < 2 && bytes.Length < Math.Min(stream.Length, MostHeaderBytes))
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
        if (store.List("").FirstOrDefault(o => !VaultNames.IsOurs(o.Name)) is { Name: { } other })
        {
            throw new FaultException(new Fault(FaultCode.NoVault) { Path = store.Place, Name = other });
        }
    }
}
