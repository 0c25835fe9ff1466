using System.Collections.Immutable;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Names;
using NeatCrate.Core.Shelves;

namespace NeatCrate.Core.Usage;

/// <summary>A name of a document, and what a new version of it has in its place.</summary>
/// <param name="Was">The name, as it is read.</param>
/// <param name="Is">The other one, as it is read.</param>
/// <param name="Times">How often it stands there.</param>
public sealed record NewNaming(string Was, string Is, int Times);

/// <summary>
/// A new version of another program's document, in which names lead to where files stand then. Only documents that are text are
/// written so, and only beside the one that is there: what is made is read again, and has to name exactly what it should, and all else
/// as before (docs/names.md, "A new version").
/// </summary>
/// <param name="Names">The names that are exchanged.</param>
/// <param name="Before">Identity of the document as it is.</param>
/// <param name="After">Bytes of the new version.</param>
public sealed record NamedAnew(ImmutableArray<NewNaming> Names, ByteIdentity Before, byte[] After)
{
    /// <summary>Works it out; the document is read anew.</summary>
    /// <param name="document">The document.</param>
    /// <param name="inventory">The inventory of its session.</param>
    /// <param name="shelves">All known shelves.</param>
    /// <param name="newPlaces">Where files stand then, by where the document names them now: absolute paths.</param>
    /// <returns>Null where the document names none of them, or names them rightly already.</returns>
    /// <exception cref="FaultException">
    /// It cannot be read (any reason of the system), is not text (<see cref="FaultCode.DocumentIsNotText"/>), or a name cannot be written in it
    /// (<see cref="FaultCode.NameIsOpen"/>, <see cref="FaultCode.NameLeadsElsewhere"/>, <see cref="FaultCode.NameCannotBeWritten"/>,
    /// <see cref="FaultCode.NameStatesItsLength"/>, <see cref="FaultCode.NamesWouldDiffer"/>).
    /// </exception>
    public static NamedAnew? Of(InventoryDocument document, SessionInventory inventory, IReadOnlyList<Shelf> shelves, IReadOnlyDictionary<string, string> newPlaces)
    {
        ArgumentNullException.ThrowIfNull(document);
        ArgumentNullException.ThrowIfNull(inventory);
        ArgumentNullException.ThrowIfNull(newPlaces);
        var bytes = ReadableFile.ReadAll(document.Path, DocumentFormats.MostBytes);
        var (found, folder) = (NameFinder.Find(bytes), Path.GetDirectoryName(document.Path)!);
        var files = new NamedFiles(inventory, shelves);
        var meanings = files.Meanings(new HashSet<string>()).Of(found.Names, folder);
        var concerned = meanings.Where(m => newPlaces.TryGetValue(m.Path, out var place) && place != m.Path).ToList();
        if (concerned.Count == 0)
        {
            return null;
        }
        if (concerned.Find(m => m.Knowledge != UseKnowledge.Named) is { } open)
        {
            throw Refused(FaultCode.NameIsOpen, document, open.Written);
        }
        var text = DocumentText.Of(bytes) ?? throw Refused(FaultCode.DocumentIsNotText, document, "");
        var writing = new WrittenPlaces(inventory, folder, meanings);
        var names = new Dictionary<string, string>(StringComparer.Ordinal);
        foreach (var meaning in concerned)
        {
            names[meaning.Written] = writing.Of(meaning, newPlaces[meaning.Path]) ?? throw Refused(FaultCode.NameLeadsElsewhere, document, meaning.Written);
        }
        var changed = names.Where(n => n.Key != n.Value).ToDictionary(n => n.Key, n => n.Value, StringComparer.Ordinal);
        if (changed.Count == 0)
        {
            return null;
        }
        var after = Exchanged(document, text, meanings, changed);
        var then = files.Meanings(newPlaces.Values.ToHashSet(StringComparer.Ordinal));
        // Read again, it has to say what it should, and of everything else what it said.
        var again = NameFinder.Find(after);
        var expected = Told(then.Of(found.Names, folder).Where(m => !names.ContainsKey(m.Written))
            .Concat(concerned.Select(m => new NameMeaning(newPlaces[m.Path], names[m.Written], m.Times, m.Knowledge))));
        if (!again.IsWhole || !Told(then.Of(again.Names, folder)).SequenceEqual(expected) || DocumentText.Of(after) is not { } read || read.Kind != text.Kind || read.TakesOnlyAscii != text.TakesOnlyAscii)
        {
            throw Refused(FaultCode.NamesWouldDiffer, document, "");
        }
        return new NamedAnew([.. concerned.GroupBy(m => m.Written).Where(g => changed.ContainsKey(g.Key)).Select(g => new NewNaming(g.Key, changed[g.Key], g.Sum(m => m.Times)))], ByteIdentity.Of(bytes), after);
    }

    private static byte[] Exchanged(InventoryDocument document, DocumentText text, IReadOnlyList<NameMeaning> meanings, Dictionary<string, string> changed)
    {
        try
        {
            return new NameExchange(text, [.. meanings.Select(m => m.Written).Distinct(StringComparer.Ordinal)]).With(changed, changed.Keys.ToDictionary(n => n, n => meanings.Where(m => m.Written == n).Sum(m => m.Times), StringComparer.Ordinal));
        }
        catch (FaultException e)
        {
            throw new FaultException(e.Fault with { Path = document.Path });
        }
    }

    private static FaultException Refused(FaultCode code, InventoryDocument document, string name) => new(new Fault(code) { Path = document.Path, Name = name });

    private static List<(string, string, int, UseKnowledge)> Told(IEnumerable<NameMeaning> meanings) =>
    [
        .. meanings.GroupBy(m => (m.Written, m.Path, m.Knowledge)).Select(g => (g.Key.Written, g.Key.Path, g.Sum(m => m.Times), g.Key.Knowledge))
            .OrderBy(m => m.Written, StringComparer.Ordinal).ThenBy(m => m.Path, StringComparer.Ordinal).ThenBy(m => m.Knowledge),
    ];
}
