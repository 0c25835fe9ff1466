using System.IO.Hashing;
using System.Runtime.InteropServices;
using System.Text;
using NeatCrate.Core.Faults;
using NeatCrate.Core.Files;
using NeatCrate.Core.Media;

namespace NeatCrate.Core.Plans;

/// <summary>What a folder holds, as one identity: the bytes of all its files together, and a hash over the names and identities of all that is in it. Two folders with the same hold the same.</summary>
internal static class FolderIdentity
{
    /// <summary>The identity of a folder that holds these.</summary>
    /// <param name="files">Paths from the folder, with forward slashes, and what stands there.</param>
    /// <param name="folders">Paths of all folders in it.</param>
    public static ByteIdentity Of(IEnumerable<(string Path, ByteIdentity Identity)> files, IEnumerable<string> folders)
    {
        var (hash, bytes) = (new XxHash128(), 0L);
        Span<byte> number = stackalloc byte[16];
        foreach (var (path, identity) in files.Concat(folders.Select(f => (Path: f + "/", Identity: default(ByteIdentity)))).OrderBy(f => f.Path, StringComparer.Ordinal))
        {
            hash.Append(Encoding.UTF8.GetBytes(path + "\0"));
            MemoryMarshal.Write(number, identity.Bytes);
            hash.Append(number[..8]);
            MemoryMarshal.Write(number, identity.Hash);
            hash.Append(number);
            bytes += identity.Bytes;
        }
        return new ByteIdentity(bytes, hash.GetCurrentHashAsUInt128());
    }

    /// <summary>Reads all of a folder.</summary>
    /// <returns>Null where it is no folder, or holds what is neither a file nor a folder.</returns>
    public static ByteIdentity? Read(IDurableFiles disk, string folder, Action<long>? read = null, CancellationToken cancel = default)
    {
        if (disk.LookAtName(folder) is not { Kind: EntryKind.Folder })
        {
            return null;
        }
        var (files, folders, next) = (new List<(string, ByteIdentity)>(), new List<string>(), new Stack<string>([""]));
        while (next.TryPop(out var at))
        {
            foreach (var name in disk.Names(Path.Combine(folder, at)))
            {
                var path = at.Length == 0 ? name : $"{at}/{name}";
                switch (disk.LookAtName(Path.Combine(folder, path)))
                {
                    case { Kind: EntryKind.Folder }:
                        folders.Add(path);
                        next.Push(path);
                        break;
                    case { IsRegular: true }:
                        files.Add((path, disk.Identify(Path.Combine(folder, path), read, cancel)));
                        break;
                    default:
                        return null;
                }
            }
        }
        return Of(files, folders);
    }

    /// <summary>Removes a folder that we made with everything in it. No link is followed.</summary>
    public static void RemoveTree(this UnwindContext context, string folder)
    {
        if (context.Files.LookAtName(folder) is not { Kind: EntryKind.Folder })
        {
            context.Remove(folder);
            return;
        }
        foreach (var name in context.Files.Names(folder))
        {
            context.RemoveTree(Path.Combine(folder, name));
        }
        context.RemoveFolder(folder);
    }
}
