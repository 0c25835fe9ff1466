using System.Buffers;
using System.Collections.Concurrent;
using System.Collections.Immutable;
using System.Globalization;
using System.IO.Hashing;
using System.Text;
using System.Text.RegularExpressions;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Media;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Vault;

namespace NeatCrate.Core.Backups;

/// <summary>A kept state of a document.</summary>
/// <param name="Name">Its file name among the kept ones.</param>
/// <param name="Document">File name of the document that it is a state of.</param>
/// <param name="Saved">When that was saved, in local time.</param>
/// <param name="Bytes">Its size in bytes.</param>
/// <param name="Note">What was said of it by hand; null for nothing.</param>
public sealed record KeptDocument(string Name, string Document, DateTime Saved, long Bytes, string? Note);

/// <summary>
/// Kept states of a session's documents in one folder (docs/formats.md, "Document backups"): in the session, or on another shelf. Each
/// is written once, byte for byte, and never changed. One at a time for each folder.
/// </summary>
/// <param name="folder">Absolute path; made with the first one.</param>
/// <param name="root">A folder above it that must be there: the session's, or the shelf's.</param>
/// <param name="files">The durable layer.</param>
/// <param name="time">The clock; the system's where none is given.</param>
public sealed partial class KeptDocuments(string folder, string root, IDurableFiles files, TimeProvider? time = null)
{
    /// <summary>Name of the folder in a session folder.</summary>
    public const string FolderName = SessionLayout.DocumentBackups;

    /// <summary>Name of the folder at the top of a shelf that is the second place.</summary>
    public const string SecondFolderName = SessionLayout.DocumentBackupsElsewhere;

    private const string NoteExtension = ".note.txt";
    private const string TemporaryPrefix = ".neat-crate-";
    private const string TemporaryExtension = ".part";
    private const int BufferBytes = 1024 * 1024;
    private const int MostNoteBytes = 64 * 1024;

    private const string ChangedExtension = ".changed";

    // Of what was read, by name: as long as size and time are what they were.
    private readonly ConcurrentDictionary<string, AsKept> _identities = new(StringComparer.Ordinal);
    private readonly Lock _lock = new();
    private KeptList? _list;

    /// <summary>The folder.</summary>
    public string Folder => folder;

    /// <summary>All that is kept, the newest last. What is no longer what was kept counts as not there.</summary>
    /// <exception cref="FaultException">The folder cannot be read.</exception>
    public ImmutableArray<KeptDocument> All() => Look().Whole;

    /// <summary>
    /// All that is kept, the newest last; and the names under which something else stands than what was kept: it was changed, cut or swapped,
    /// or is no file any more.
    /// </summary>
    /// <exception cref="FaultException">The folder cannot be read.</exception>
    public (ImmutableArray<KeptDocument> Whole, ImmutableArray<string> Changed) Look()
    {
        if (files.Look(folder) is not { Kind: EntryKind.Folder })
        {
            return ([], []);
        }
        var content = FolderContent.Read(folder);
        var names = content.Files.Select(f => f.Name).ToHashSet(StringComparer.Ordinal);
        var asKept = ListNow().States;
        var changed = asKept.Keys.Where(n => !names.Contains(n) && files.LookAtName(Path.Combine(folder, n)) is not null).ToHashSet(StringComparer.Ordinal);
        changed.UnionWith(content.Files.Where(f => asKept.TryGetValue(f.Name, out var then) && !IsAsKept(f, then)).Select(f => f.Name));
        return (
            [.. content.Files.Where(f => !changed.Contains(f.Name)).Select(f => Read(f.Name, f.Bytes, names)).OfType<KeptDocument>().OrderBy(k => k.Saved).ThenBy(k => k.Name.Length).ThenBy(k => k.Name, StringComparer.Ordinal)],
            [.. changed.Order(StringComparer.Ordinal)]);
    }

    /// <summary>The list of this folder; read anew where it is another file than before.</summary>
    private KeptList ListNow()
    {
        var list = _list;
        if (list is null || list.Facts != FileFacts.OfName(Path.Combine(folder, KeptList.FileName)))
        {
            _list = list = KeptList.Of(folder);
        }
        return list;
    }

    /// <summary>By size and time; where only the time is another, as after a copy, by what it holds.</summary>
    private bool IsAsKept(FolderFile file, AsKept then)
    {
        if (file.Bytes != then.Identity.Bytes || file.ModifiedUtc == then.ModifiedUtc)
        {
            return file.Bytes == then.Identity.Bytes;
        }
        try
        {
            return IdentityOf(file.Name, file.Bytes, file.ModifiedUtc) == then.Identity;
        }
        catch (FaultException)
        {
            // It cannot be read now: whoever wants what it holds is told.
            return true;
        }
    }

    /// <summary>Absolute path of a kept state.</summary>
    /// <exception cref="FaultException">There is none of this name (<see cref="FaultCode.VersionGone"/>).</exception>
    public string PathOf(string name)
    {
        ArgumentNullException.ThrowIfNull(name);
        var path = Path.Combine(folder, name);
        return Path.GetFileName(name) == name && Stamped().IsMatch(Path.GetFileNameWithoutExtension(name)) && files.LookAtName(path) is { IsRegular: true }
            ? path
            : throw new FaultException(new Fault(FaultCode.VersionGone) { Name = name });
    }

    /// <summary>Keeps the state that a document has now.</summary>
    /// <param name="document">Absolute path of the document.</param>
    /// <param name="note">What is said of it; null for nothing.</param>
    /// <param name="kept">The one that holds it: a new one, or one that held it before.</param>
    /// <param name="other">Another place that may hold it already; then it is not kept here once more.</param>
    /// <param name="beside">A place whose names are not taken a second time: of states of one second each has a name of its own in both.</param>
    /// <returns>False when the document changed while it was read, or is not there: then nothing was kept.</returns>
    /// <exception cref="FaultException">The document cannot be read, is larger than any is (<see cref="FaultCode.DocumentTooLarge"/>), or the folder refuses.</exception>
    public bool TryKeep(string document, string? note, out KeptDocument? kept, KeptDocuments? other = null, KeptDocuments? beside = null)
    {
        lock (_lock)
        {
            kept = null;
            if (files.Look(document) is not { IsRegular: true })
            {
                return false;
            }
            using var from = files.OpenSource(document);
            var facts = from.Facts;
            if (facts.Bytes > DocumentFormats.MostBytes)
            {
                // No document is of that size: reading it would hold up all that are.
                throw new FaultException(new Fault(FaultCode.DocumentTooLarge) { Path = document, Bytes = facts.Bytes });
            }
            var (stem, extension) = (Path.GetFileNameWithoutExtension(document), Path.GetExtension(document));
            var identity = Identify(from, document, null);
            if (from.Facts != facts || !IsStill(document, facts))
            {
                return false;
            }
            kept = Holding(identity) ?? other?.Holding(identity);
            if (kept is null)
            {
                stem = NameThatFits(stem, extension);
                kept = Write($"{stem} {BackupVault.Stamp(SavedAt(stem + extension, facts, other))}", extension, from, document, facts, identity, beside);
                if (kept is null)
                {
                    return false;
                }
            }
            if (note is { Length: > 0 } && note != kept.Note)
            {
                kept = kept with { Note = Say(kept.Name, note) };
            }
            return true;
        }
    }

    /// <summary>Says something of a kept state afterwards, in place of what was said of it before.</summary>
    /// <param name="name">Its name.</param>
    /// <param name="note">What is said of it; not empty.</param>
    /// <returns>False where this place does not hold it.</returns>
    /// <exception cref="FaultException">The folder cannot be read, or refuses.</exception>
    public bool SayOf(string name, string note)
    {
        ArgumentException.ThrowIfNullOrWhiteSpace(note);
        lock (_lock)
        {
            if (All().All(k => k.Name != name))
            {
                return false;
            }
            Say(name, note);
            return true;
        }
    }

    /// <summary>Takes in what another place keeps and this one does not, with its notes. The lock of this place is held for one state at a time.</summary>
    /// <param name="from">The other place; it is only read.</param>
    /// <param name="cancel">Stops between two states; what came by then stays.</param>
    /// <param name="progress">Told how many states were seen to, how many there are, and the name of the one at hand.</param>
    /// <returns>How many came.</returns>
    /// <exception cref="FaultException">One of the places refuses; what came by then stays.</exception>
    public int CatchUp(KeptDocuments from, CancellationToken cancel, Action<int, int, string>? progress = null)
    {
        ArgumentNullException.ThrowIfNull(from);
        var here = All().ToLookup(k => (k.Document, k.Saved, k.Bytes));
        var (all, came) = (from.All(), 0);
        foreach (var (n, other) in all.Index())
        {
            cancel.ThrowIfCancellationRequested();
            progress?.Invoke(n, all.Length, other.Name);
            lock (_lock)
            {
                if (here[(other.Document, other.Saved, other.Bytes)].FirstOrDefault(k => IsTheSame(k, other, from)) is { } same)
                {
                    // It may be here under another name, as one of several of one second.
                    if (other.Note is { } note && note != same.Note)
                    {
                        Say(same.Name, note);
                    }
                    continue;
                }
                came += TakeIn(other, from) ? 1 : 0;
            }
        }
        return came;
    }

    /// <summary>Whether two states are one and the same: by the time of the file, which comes along to the last digit, and else by what they hold.</summary>
    private bool IsTheSame(KeptDocument own, KeptDocument other, KeptDocuments from) =>
        (own.Name == other.Name && files.LookAtName(Path.Combine(folder, own.Name)) is { } here && files.LookAtName(Path.Combine(from.Folder, other.Name)) is { } there
            && here.ModifiedUtc == there.ModifiedUtc && here.ModifiedUtc.Ticks % TimeSpan.TicksPerSecond != 0)
        || IdentityOf(own) == from.IdentityOf(other);

    private bool TakeIn(KeptDocument other, KeptDocuments from)
    {
        var path = Path.Combine(from.Folder, other.Name);
        using var source = files.OpenSource(path);
        var identity = Identify(source, path, null);
        if (ListNow().States.TryGetValue(other.Name, out var then) && then.Identity == identity)
        {
            // Something else stands in its place by now, and may be somebody's: it makes room, and stays.
            MoveAside(other.Name);
        }
        // Without the number that it has there: it gets the next one that is free here.
        var stem = Stamped().Match(Path.GetFileNameWithoutExtension(other.Name)) is { Success: true } match ? $"{match.Groups[1].Value} {match.Groups[2].Value}" : Path.GetFileNameWithoutExtension(other.Name);
        var name = files.LookAtName(Path.Combine(folder, other.Name)) is null ? Path.GetFileNameWithoutExtension(other.Name) : stem;
        if (Write(name, Path.GetExtension(other.Name), source, path, source.Facts, identity, null) is not { } kept)
        {
            return false;
        }
        if (other.Note is { } said)
        {
            Say(kept.Name, said);
        }
        return true;
    }

    /// <summary>Lets go of what other places keep as well, byte for byte, but for the newest state of each document.</summary>
    /// <param name="others">The places that must hold a state before it goes from here; one that is null is not asked.</param>
    public void LetGo(params KeptDocuments?[] others)
    {
        ArgumentNullException.ThrowIfNull(others);
        // They are asked before the lock is taken: a drive that hangs must hold up nobody who keeps something here.
        var held = others.OfType<KeptDocuments>().Select(o => (Place: o, States: o.All().ToLookup(k => (k.Name, k.Bytes)))).ToList();
        var going = All().GroupBy(k => k.Document, StringComparer.Ordinal).SelectMany(g => g.SkipLast(1))
            .Where(k => held.TrueForAll(h => h.States[(k.Name, k.Bytes)].Any(o => h.Place.IdentityNow(o) == IdentityNow(k)))).ToList();
        lock (_lock)
        {
            foreach (var name in going.SelectMany(FilesOf).Where(n => files.LookAtName(Path.Combine(folder, n)) is not null))
            {
                files.Remove(Path.Combine(folder, name));
            }
        }
    }

    /// <summary>
    /// A document's name without its extension, cut where the time, a number and a note would not fit behind it: names have at most 255
    /// bytes (ext4, and most others). What was cut off stands as a hash, so that two such documents stay two.
    /// </summary>
    private static string NameThatFits(string stem, string extension)
    {
        const int MostNameBytes = 255;
        const int HashDigits = 8;
        var room = MostNameBytes - Encoding.UTF8.GetByteCount(extension) - " yyyy-MM-dd_HHmmss (999999)".Length - NoteExtension.Length;
        if (Encoding.UTF8.GetByteCount(stem) <= room)
        {
            return stem;
        }
        var cut = stem.Length;
        while (Encoding.UTF8.GetByteCount(stem.AsSpan(0, cut)) > room - HashDigits - 1 || char.IsHighSurrogate(stem[cut - 1]))
        {
            cut--;
        }
        return string.Create(CultureInfo.InvariantCulture, $"{stem[..cut]}~{(uint)XxHash128.HashToUInt128(Encoding.UTF8.GetBytes(stem)):x8}");
    }

    /// <summary>Names of what stands for a kept state on disk, its note included.</summary>
    public static IEnumerable<string> FilesOf(KeptDocument kept)
    {
        ArgumentNullException.ThrowIfNull(kept);
        return kept.Note is null ? [kept.Name] : [kept.Name, kept.Name + NoteExtension];
    }

    /// <summary>
    /// When a state was saved: the time of the document's last change. Where that was put back before a state that is kept already, or
    /// lies ahead of the clock, it says nothing, and the time is now; where the clock itself went back, that of the state before. What was
    /// saved last stands last.
    /// </summary>
    private DateTime SavedAt(string document, FileFacts facts, KeptDocuments? other)
    {
        var (saved, now) = (facts.ModifiedUtc.ToLocalTime(), (time ?? TimeProvider.System).GetLocalNow().DateTime);
        var last = All().Concat(other?.All() ?? []).Where(k => k.Document == document).Select(k => k.Saved).DefaultIfEmpty(DateTime.MinValue).Max();
        saved = saved.AddSeconds(1) < last || saved > now.AddSeconds(2) ? now : saved;
        return saved.AddSeconds(1) < last ? last : saved;
    }

    /// <summary>The identity of a kept state's bytes. Each is read once, as long as size and time stay.</summary>
    /// <exception cref="FaultException">It cannot be read.</exception>
    public ByteIdentity IdentityOf(KeptDocument kept)
    {
        ArgumentNullException.ThrowIfNull(kept);
        var facts = files.LookAtName(Path.Combine(folder, kept.Name)) ?? throw new FaultException(new Fault(FaultCode.VersionGone) { Name = kept.Name });
        return IdentityOf(kept.Name, facts.Bytes, facts.ModifiedUtc);
    }

    private ByteIdentity IdentityOf(string name, long bytes, DateTime modifiedUtc)
    {
        bool Holds(AsKept known) => known.Identity.Bytes == bytes && known.ModifiedUtc == modifiedUtc;
        if ((ListNow().States.TryGetValue(name, out var known) && Holds(known)) || (_identities.TryGetValue(name, out known) && Holds(known)))
        {
            return known.Identity;
        }
        var identity = IdentityNow(name);
        _identities[name] = new AsKept(identity, modifiedUtc);
        return identity;
    }

    private ByteIdentity IdentityNow(KeptDocument kept) => IdentityNow(kept.Name);

    private ByteIdentity IdentityNow(string name)
    {
        using var source = files.OpenSource(Path.Combine(folder, name));
        return Identify(source, name, null);
    }

    private KeptDocument? Holding(ByteIdentity identity) => All().LastOrDefault(k => k.Bytes == identity.Bytes && IdentityOf(k) == identity);

    private bool IsStill(string path, FileFacts facts) => files.Look(path) is { } now && now == facts;

    private static ByteIdentity Identify(SourceFile from, string path, WritableFile? to)
    {
        var hash = new XxHash128();
        var buffer = ArrayPool<byte>.Shared.Rent(BufferBytes);
        try
        {
            var offset = 0L;
            for (var bytes = from.Facts.Bytes; offset < bytes;)
            {
                var count = from.ReadSource(path, buffer.AsSpan(0, (int)Math.Min(BufferBytes, bytes - offset)), offset);
                hash.Append(buffer.AsSpan(0, count));
                to?.Write(buffer.AsSpan(0, count), offset);
                offset += count;
            }
            return new ByteIdentity(offset, hash.GetCurrentHashAsUInt128());
        }
        finally
        {
            ArrayPool<byte>.Shared.Return(buffer);
        }
    }

    /// <summary>Writes, flushes, reads back and names; null when the source was something else by then.</summary>
    private KeptDocument? Write(string stem, string extension, SourceFile from, string source, FileFacts facts, ByteIdentity expected, KeptDocuments? beside)
    {
        const int MostTries = 3;
        for (var n = 1; ; n++)
        {
            try
            {
                return WriteOnce(stem, extension, from, source, facts, expected, beside);
            }
            catch (FaultException e) when (n < MostTries && e.Fault.Code == FaultCode.NotThere && Path.GetFileName(e.Fault.Path)?.StartsWith(TemporaryPrefix, StringComparison.Ordinal) == true)
            {
                // Another application that keeps something here took it for what was left over.
            }
        }
    }

    private KeptDocument? WriteOnce(string stem, string extension, SourceFile from, string source, FileFacts facts, ByteIdentity expected, KeptDocuments? beside)
    {
        MakeFolder(folder);
        RemoveLeft();
        var temporary = Path.Combine(folder, $"{TemporaryPrefix}{Guid.NewGuid():N}{TemporaryExtension}");
        try
        {
            using (var to = files.CreateNew(temporary, facts.Bytes))
            {
                if (Identify(from, source, to) != expected || from.Facts != facts)
                {
                    return null;
                }
                to.SetLength(facts.Bytes);
                to.SetModified(facts.ModifiedUtc, facts.ModifiedRest);
                to.Flush();
            }
            using (var back = files.OpenSource(temporary))
            {
                if (Identify(back, temporary, null) != expected)
                {
                    throw new FaultException(FaultCode.ReadBackDiffers, temporary);
                }
            }
            var name = stem + extension;
            for (var n = 2; !TryName(temporary, name, beside); n++)
            {
                if (files.LookAtName(Path.Combine(folder, name)) is { IsRegular: true } other && other.Bytes == facts.Bytes && IdentityNow(name) == expected)
                {
                    // Another application kept it in this moment.
                    return Read(name, facts.Bytes, []);
                }
                name = string.Create(CultureInfo.InvariantCulture, $"{stem} ({n}){extension}");
            }
            files.FlushFolder(folder);
            NoteAsKept(name, expected);
            return Read(name, facts.Bytes, []);
        }
        finally
        {
            if (files.LookAtName(temporary) is not null)
            {
                files.Remove(temporary);
            }
        }
    }

    /// <summary>Gives a written state its name; false where that is taken.</summary>
    private bool TryName(string temporary, string name, KeptDocuments? beside)
    {
        var path = Path.Combine(folder, name);
        if (files.LookAtName(path) is not null || (beside is not null && files.LookAtName(Path.Combine(beside.Folder, name)) is not null))
        {
            return false;
        }
        try
        {
            files.RenameToFreeName(temporary, path);
            return true;
        }
        catch (FaultException e) when (e.Fault.Code == FaultCode.NameTaken)
        {
            // Somebody came first.
            return false;
        }
    }

    /// <summary>Writes down how a state was kept; what is no longer there goes from the list.</summary>
    private void NoteAsKept(string name, ByteIdentity identity)
    {
        try
        {
            if (files.LookAtName(Path.Combine(folder, name)) is not { } facts)
            {
                return;
            }
            // What was read of others meanwhile is written down with it, such as of those from before there were lists.
            var states = new Dictionary<string, AsKept>(ListNow().States.Where(s => files.LookAtName(Path.Combine(folder, s.Key)) is not null), StringComparer.Ordinal);
            foreach (var (other, read) in _identities.Where(i => files.LookAtName(Path.Combine(folder, i.Key)) is { IsRegular: true } there && there.Bytes == i.Value.Identity.Bytes && there.ModifiedUtc == i.Value.ModifiedUtc))
            {
                states.TryAdd(other, read);
            }
            states[name] = new AsKept(identity, facts.ModifiedUtc);
            if (files.LookAtName(Path.Combine(folder, KeptList.FileName)) is { IsRegular: false })
            {
                MoveAside(KeptList.FileName);
            }
            WriteOwn(KeptList.FileName, KeptList.ToUtf8(states));
        }
        catch (FaultException)
        {
            // The state itself is kept and was read back. Without a word of it on the list it is taken as it is, as one of before there were lists.
        }
    }

    /// <summary>Gives a name free: what stands there gets another one beside it.</summary>
    private void MoveAside(string name)
    {
        var aside = name + ChangedExtension;
        for (var n = 2; files.LookAtName(Path.Combine(folder, aside)) is not null; n++)
        {
            aside = string.Create(CultureInfo.InvariantCulture, $"{name} ({n}){ChangedExtension}");
        }
        files.RenameToFreeName(Path.Combine(folder, name), Path.Combine(folder, aside));
    }

    /// <summary>Brings back from another place what here is no longer what was kept, where that one still holds it.</summary>
    /// <param name="from">The other place; it is only read.</param>
    /// <returns>How many came back.</returns>
    /// <exception cref="FaultException">One of the places refuses; what came back by then stays.</exception>
    public int Heal(KeptDocuments from)
    {
        ArgumentNullException.ThrowIfNull(from);
        var came = 0;
        if (Look().Changed is { IsEmpty: false } changed)
        {
            var there = from.All().Where(k => changed.Contains(k.Name)).ToList();
            lock (_lock)
            {
                came = there.Count(k => ListNow().States.TryGetValue(k.Name, out var then) && from.IdentityOf(k) == then.Identity && TakeIn(k, from));
            }
        }
        return came;
    }

    /// <summary>Says something of a kept state, in place of what was said before.</summary>
    private string Say(string name, string note)
    {
        MakeFolder(folder);
        if (files.LookAtName(Path.Combine(folder, name + NoteExtension)) is { IsRegular: false })
        {
            MoveAside(name + NoteExtension);
        }
        WriteOwn(name + NoteExtension, Encoding.UTF8.GetBytes(note.Trim() + "\n"));
        return note.Trim();
    }

    /// <summary>Writes a file of ours, in place of the one that stands there.</summary>
    private void WriteOwn(string name, byte[] bytes)
    {
        var (path, temporary) = (Path.Combine(folder, name), Path.Combine(folder, $"{TemporaryPrefix}{Guid.NewGuid():N}{TemporaryExtension}"));
        using (var to = files.CreateNew(temporary, 0))
        {
            to.Write(bytes, 0);
            to.Flush();
        }
        if (files.LookAtName(path) is not null && files.TrySwap(temporary, path))
        {
            files.Remove(temporary);
        }
        else
        {
            if (files.LookAtName(path) is not null)
            {
                files.Remove(path);
            }
            files.RenameToFreeName(temporary, path);
        }
        files.FlushFolder(folder);
    }

    private KeptDocument? Read(string name, long bytes, HashSet<string> names)
    {
        if (name.EndsWith(NoteExtension, StringComparison.Ordinal) || name.StartsWith(TemporaryPrefix, StringComparison.Ordinal) || Stamped().Match(Path.GetFileNameWithoutExtension(name)) is not { Success: true } match
            || !DateTime.TryParseExact(match.Groups[2].Value, "yyyy-MM-dd_HHmmss", CultureInfo.InvariantCulture, DateTimeStyles.None, out var saved))
        {
            return null;
        }
        var note = names.Contains(name + NoteExtension) ? NoteOf(name) : null;
        return new KeptDocument(name, match.Groups[1].Value + Path.GetExtension(name), saved, bytes, note);
    }

    private string? NoteOf(string name)
    {
        try
        {
            return Encoding.UTF8.GetString(ReadableFile.ReadAll(Path.Combine(folder, name + NoteExtension), MostNoteBytes)).Trim() is { Length: > 0 } text ? text : null;
        }
        catch (FaultException e)
        {
            // The state itself is what matters; that its note cannot be read is said in the note's place.
            return $"(its note cannot be read: {e.Fault.Detail ?? e.Fault.Code.ToString()})";
        }
    }

    private void RemoveLeft()
    {
        foreach (var left in files.Names(folder).Where(n => n.StartsWith(TemporaryPrefix, StringComparison.Ordinal) && n.EndsWith(TemporaryExtension, StringComparison.Ordinal)))
        {
            files.Remove(Path.Combine(folder, left));
        }
    }

    private void MakeFolder(string path)
    {
        if (files.Look(path) is { Kind: EntryKind.Folder })
        {
            return;
        }
        var parent = Path.GetDirectoryName(path)!;
        if (path == root || parent.Length < root.Length)
        {
            throw new FaultException(FaultCode.RootGone, root);
        }
        MakeFolder(parent);
        try
        {
            files.MakeFolder(path);
        }
        catch (FaultException e) when (e.Fault.Code == FaultCode.NameTaken && files.Look(path) is { Kind: EntryKind.Folder })
        {
            // Another session's saves came first, in this moment.
        }
        files.FlushFolder(parent);
    }

    [GeneratedRegex(@"^(.*) (\d{4}-\d\d-\d\d_\d{6})(?: \(\d{1,6}\))?$", RegexOptions.Singleline)]
    private static partial Regex Stamped();
}
