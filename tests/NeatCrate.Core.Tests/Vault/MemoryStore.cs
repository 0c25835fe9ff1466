using System.Collections.Concurrent;
using NeatCrate.Core.Vault;

namespace NeatCrate.Core.Tests.Vault;

/// <summary>Objects in memory.</summary>
internal sealed class MemoryStore : IObjectStore
{
    private readonly ConcurrentDictionary<string, byte[]> _objects = new(StringComparer.Ordinal);
    private int _isLocked;

    public string Place => "memory";

    /// <summary>What happens in the moment in which it is listed.</summary>
    public Action? WhenListed { get; set; }

    public IEnumerable<StoredObject> List(string prefix)
    {
        var meanwhile = WhenListed;
        WhenListed = null;
        meanwhile?.Invoke();
        return All(prefix);
    }

    private IEnumerable<StoredObject> All(string prefix) => _objects.Where(o => o.Key.StartsWith(prefix, StringComparison.Ordinal) && (prefix.Length > 0 || !o.Key.StartsWith(IObjectStore.Damaged + "/", StringComparison.Ordinal))).Select(o => new StoredObject(o.Key, o.Value.Length));

    public long? Size(string name) => _objects.TryGetValue(name, out var bytes) ? bytes.Length : null;

    public Stream Open(string name) => _objects.TryGetValue(name, out var bytes) ? new MemoryStream(bytes, writable: false) : throw new FaultException(FaultCode.NotThere, name);

    public NewObject Begin(long bytes) => new New(this);

    public void Remove(string name) => _objects.TryRemove(name, out _);

    public void MoveAside(string name)
    {
        if (_objects.TryRemove(name, out var bytes))
        {
            _objects[$"{IObjectStore.Damaged}/{name}"] = bytes;
        }
    }

    public void Flush()
    {
    }

    public IDisposable Lock() => Interlocked.Exchange(ref _isLocked, 1) == 0 ? new Held(this) : throw new FaultException(FaultCode.VaultBusy, Place);

    private sealed class Held(MemoryStore store) : IDisposable
    {
        public void Dispose() => Volatile.Write(ref store._isLocked, 0);
    }

    private sealed class New(MemoryStore store) : NewObject
    {
        private readonly MemoryStream _bytes = new();

        public override void Write(ReadOnlySpan<byte> bytes) => _bytes.Write(bytes);

        public override bool Keep(string name, bool replaces = false)
        {
            if (!replaces && !store._objects.TryAdd(name, _bytes.ToArray()))
            {
                return false;
            }
            store._objects[name] = _bytes.ToArray();
            store.Remove($"{IObjectStore.Damaged}/{name}");
            return true;
        }

        protected override void Dispose(bool disposing) => _bytes.Dispose();
    }
}
