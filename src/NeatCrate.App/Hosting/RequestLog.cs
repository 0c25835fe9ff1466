using Serilog.Events;

namespace NeatCrate.App.Hosting;

/// <summary>Which requests stand in the log: what changes something, what was refused, what failed, and what took long.</summary>
public static class RequestLog
{
    private const double LongMs = 1000;

    /// <summary>The level at which a request is logged.</summary>
    public static LogEventLevel LevelOf(HttpContext context, double elapsedMs, Exception? error)
    {
        ArgumentNullException.ThrowIfNull(context);
        var status = context.Response.StatusCode;
        return error is not null || status >= StatusCodes.Status500InternalServerError ? LogEventLevel.Error
            : status >= StatusCodes.Status400BadRequest || elapsedMs > LongMs || !HttpMethods.IsGet(context.Request.Method) ? LogEventLevel.Information
            : LogEventLevel.Verbose;
    }
}
