using Microsoft.AspNetCore.Http.HttpResults;
using NeatCrate.App.Ground;
using NeatCrate.Core.Documents;

namespace NeatCrate.App.Sessions;

/// <summary>A kind of file.</summary>
/// <param name="Ending">The ending of the names, in lower case and with its dot.</param>
/// <param name="IsDocument">True where they are documents; false where they are none, whatever they name.</param>
public sealed record DocumentKindView(string Ending, bool IsDocument);

/// <summary>What is said of a kind of file; null to guess again.</summary>
public sealed record SayDocumentKind(bool? IsDocument);

/// <summary>Requests about what files are documents.</summary>
public static class DocumentKindEndpoints
{
    private const int MostKinds = 500;

    /// <summary>Adds the routes.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var group = app.MapGroup("/api/document-kinds").WithTags("Files");
        group.MapGet("", (DocumentKindChoices kinds) => List(kinds.Now)).WithName("ListDocumentKinds");
        group.MapPut("{ending}", Say).WithName("SayDocumentKind").ProducesProblem(400);
    }

    private static Ok<DocumentKindView[]> List(DocumentKinds kinds) => TypedResults.Ok(kinds.Said.Select(s => new DocumentKindView(s.Key, s.Value)).ToArray());

    private static Ok<DocumentKindView[]> Say(string ending, SayDocumentKind asked, DocumentKindChoices kinds)
    {
        var kind = ending.ToLowerInvariant();
        Requests.Require(
            DocumentKinds.CanBeSaid(kind), $"Of '{ending}' nothing can be said here: give the ending of a name with its dot, of a kind that is neither media nor a document that is read.");
        Requests.Require(asked.IsDocument is null || kinds.Now.Said.Count < MostKinds, $"Of {MostKinds} kinds something is said already.");
        return List(kinds.Say(kind, asked.IsDocument));
    }
}
