namespace NeatCrate.Core.Vault;

/// <summary>A whole object that a store holds.</summary>
/// <param name="Name">Its name, with forward slashes.</param>
/// <param name="Bytes">Its size in bytes.</param>
public readonly record struct StoredObject(string Name, long Bytes);

/// <summary>
/// A place that holds whole objects under names (docs/formats.md, "Vault"): a folder on a shelf, memory, one day a place off the
/// house. An object appears under its name whole or not at all, and is never changed. What was put is safe against a power
/// cut after <see cref="Flush"/>. All methods throw a <see cref="FaultException"/> that says what the place refuses. May be
/// used by several threads at once.
/// </summary>
public interface IObjectStore
{
    /// <summary>What the names of objects begin with that stand aside, since they are damaged. They are listed only where that is asked for.</summary>
    const string Damaged = "damaged";

    /// <summary>What it is, for whoever is told of a fault: a path, an address.</summary>
    string Place { get; }

    /// <summary>Its objects whose names begin so, in no order.</summary>
    IEnumerable<StoredObject> List(string prefix);

    /// <summary>Size of an object in bytes; null when there is none of this name.</summary>
    long? Size(string name);

    /// <summary>Opens an object for reading. The stream can seek.</summary>
    /// <exception cref="FaultException">There is none (<see cref="FaultCode.NotThere"/>), or it cannot be read.</exception>
    Stream Open(string name);

    /// <summary>Begins a new object, whose name need not be known yet.</summary>
    /// <param name="bytes">Its size in bytes, so that a full place shows before the work; 0 where it is not known.</param>
    NewObject Begin(long bytes);

    /// <summary>Removes an object. One that is not there stays so.</summary>
    void Remove(string name);

    /// <summary>
    /// Moves whatever has a name below <see cref="Damaged"/>, where it no longer passes for the object of its name. It goes from there once
    /// a whole one is kept under the name. One that is not there stays so.
    /// </summary>
    void MoveAside(string name);

    /// <summary>Makes what was put and removed so far safe against a power cut.</summary>
    void Flush();

    /// <summary>Keeps all other writers out, in this process and in others, until it is disposed.</summary>
    /// <exception cref="FaultException">Another one is at work (<see cref="FaultCode.VaultBusy"/>).</exception>
    IDisposable Lock();
}

/// <summary>An object that is being written. Disposed without being kept, nothing is left of it.</summary>
public abstract class NewObject : IDisposable
{
    /// <summary>Writes at the end.</summary>
    public abstract void Write(ReadOnlySpan<byte> bytes);

    /// <summary>Reads back what was written, compares it, and gives it its name.</summary>
    /// <param name="name">The name.</param>
    /// <param name="replaces">True to put it in the place of a damaged one, which goes only once this one was read back; the name is never empty meanwhile where the place can swap.</param>
    /// <returns>False when an object has this name already: then that one stays.</returns>
    /// <exception cref="FaultException">What was read back is something else (<see cref="FaultCode.ReadBackDiffers"/>).</exception>
    public abstract bool Keep(string name, bool replaces = false);

    /// <inheritdoc/>
    public void Dispose()
    {
        Dispose(true);
        GC.SuppressFinalize(this);
    }

    /// <summary>Lets go of it.</summary>
    protected abstract void Dispose(bool disposing);
}

/// <summary>Objects that are read and written at once.</summary>
public static class ObjectStoreExtensions
{
    private const long MostBytes = 1L << 30;

    /// <summary>The whole of an object in memory, for small ones.</summary>
    /// <exception cref="FaultException">It is not there, cannot be read, or is larger than a gibibyte.</exception>
    public static byte[] Read(this IObjectStore store, string name)
    {
        ArgumentNullException.ThrowIfNull(store);
        using var stream = store.Open(name);
        if (stream.Length > MostBytes)
        {
            throw new FaultException(new Fault(FaultCode.DocumentTooLarge) { Path = $"{store.Place}/{name}", Bytes = stream.Length });
        }
        var bytes = new byte[stream.Length];
        stream.ReadExactly(bytes);
        return bytes;
    }

    /// <summary>Puts an object that is in memory.</summary>
    /// <returns>False when an object has this name already: then that one stays.</returns>
    public static bool Put(this IObjectStore store, string name, ReadOnlySpan<byte> bytes)
    {
        ArgumentNullException.ThrowIfNull(store);
        using var made = store.Begin(bytes.Length);
        made.Write(bytes);
        return made.Keep(name);
    }
}
