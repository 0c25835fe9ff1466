using Microsoft.AspNetCore.StaticFiles;

namespace NeatCrate.App.Hosting;

/// <summary>How long a browser keeps the parts of the pages: for ever what has its content's hash in its name, and everything else only after asking.</summary>
public static class PageCaching
{
    /// <summary>Puts the header on a file of the pages.</summary>
    public static void Prepare(StaticFileResponseContext response)
    {
        ArgumentNullException.ThrowIfNull(response);
        var isHashed = response.Context.Request.Path.StartsWithSegments("/assets", StringComparison.Ordinal);
        response.Context.Response.Headers.CacheControl = isHashed ? "public, max-age=31536000, immutable" : "no-cache";
    }
}
