using System.Globalization;
using Microsoft.AspNetCore.Mvc;

namespace NeatCrate.App.Ground;

/// <summary>
/// Keeps other web pages in the same browser out: the host must be this machine by name (against DNS rebinding), a request
/// that changes something must carry a header that no foreign page can send without being asked first, and what a browser
/// itself calls cross-site is not answered at all.
/// </summary>
public sealed class LocalOnly(RequestDelegate next)
{
    /// <summary>The header that proves that a changing request comes from our own pages.</summary>
    public const string ProofHeader = "X-Neat-Crate";

    private static readonly string[] Hosts = ["localhost", "127.0.0.1", "[::1]"];

    /// <summary>Lets the request pass, or answers it with a refusal.</summary>
    public Task InvokeAsync(HttpContext context)
    {
        ArgumentNullException.ThrowIfNull(context);
        var request = context.Request;
        Protect(context.Response);
        if (!Hosts.Contains(HostOf(request), StringComparer.OrdinalIgnoreCase))
        {
            return Refuse(context, "Neat Crate answers on this machine's own address only.");
        }
        var origin = request.Headers.Origin.ToString();
        if (origin.Length > 0 && !origin.Equals($"{request.Scheme}://{request.Host}", StringComparison.OrdinalIgnoreCase))
        {
            return Refuse(context, "The request comes from another web page.");
        }
        // Fetch Metadata (W3C): a browser says by itself where a request comes from, also where it sends no origin.
        var isAsked = request.Path.StartsWithSegments("/api", StringComparison.OrdinalIgnoreCase) || request.Path.StartsWithSegments("/hubs", StringComparison.OrdinalIgnoreCase);
        if (isAsked && request.Headers["Sec-Fetch-Site"].ToString() is "cross-site" or "same-site")
        {
            return Refuse(context, "The request comes from another web page.");
        }
        var changes = !(HttpMethods.IsGet(request.Method) || HttpMethods.IsHead(request.Method));
        if (changes && request.Path.StartsWithSegments("/api", StringComparison.OrdinalIgnoreCase) && !request.Headers.ContainsKey(ProofHeader))
        {
            return Refuse(context, $"The request lacks the header {ProofHeader}, which shows that it comes from Neat Crate's own pages.");
        }
        return next(context);
    }

    /// <summary>Puts the headers that protect a page on an answer.</summary>
    public static void Protect(HttpResponse response)
    {
        ArgumentNullException.ThrowIfNull(response);
        response.Headers.ContentSecurityPolicy =
            "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; media-src 'self'; connect-src 'self' ws://127.0.0.1:* ws://localhost:*; frame-ancestors 'none'; base-uri 'self'; form-action 'self'";
        response.Headers.XContentTypeOptions = "nosniff";
        response.Headers["Referrer-Policy"] = "no-referrer";
        response.Headers["Cross-Origin-Resource-Policy"] = "same-origin";
        response.Headers["Cross-Origin-Opener-Policy"] = "same-origin";
    }

    /// <summary>The host's name; empty for one that is no name at all.</summary>
    private static string HostOf(HttpRequest request)
    {
        try
        {
            return request.Host.Host;
        }
        catch (Exception e) when (e is ArgumentException or FormatException or CultureNotFoundException)
        {
            return "";
        }
    }

    private static Task Refuse(HttpContext context, string why)
    {
        context.Response.StatusCode = StatusCodes.Status403Forbidden;
        return context.Response.WriteAsJsonAsync(
            new ProblemDetails { Status = StatusCodes.Status403Forbidden, Title = why }, options: null, contentType: "application/problem+json");
    }
}
