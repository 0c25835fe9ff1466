namespace NeatCrate.Store;

/// <summary>
/// Queries that look many rows up by a list of values. The list comes first and each of its values is looked up by an index: left to itself
/// SQLite may read all rows and look into the list for each, which takes minutes where a drive holds a thousand sessions. It keeps the order of a
/// CROSS JOIN (sqlite.org/optoverview, section 8.2).
/// </summary>
public static class Lookups
{
    /// <summary>Files of the catalogue by <c>[shelf, folder, name]</c> each; follows the columns and <c>FROM</c>.</summary>
    public const string FilesByPlace = """
        json_each($places) p
        CROSS JOIN CatalogueFolders d ON d.ShelfId = json_extract(p.value, '$[0]') AND d.Path = json_extract(p.value, '$[1]')
        CROSS JOIN CatalogueFiles f ON f.FolderId = d.Id AND f.Name = json_extract(p.value, '$[2]')
        """;

    /// <summary>Identities by the paths on a shelf: the paths, then the shelf.</summary>
    public const string IdentitiesByPath = "SELECT i.* FROM json_each({0}) p CROSS JOIN Identities i ON i.ShelfId = {1} AND i.Path = p.value";

    /// <summary>Identities by what they are told by: hashes of bytes, of sound, of stored samples.</summary>
    public const string IdentitiesByHash = """
        SELECT i.* FROM json_each({0}) p CROSS JOIN Identities i ON i.Hash = p.value
        UNION SELECT i.* FROM json_each({1}) p CROSS JOIN Identities i ON i.Sound = p.value
        UNION SELECT i.* FROM json_each({2}) p CROSS JOIN Identities i ON i.Samples = p.value
        """;
}
