using Microsoft.AspNetCore.Diagnostics;
using Microsoft.AspNetCore.Mvc;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;

namespace NeatCrate.App.Hosting;

/// <summary>What was asked for is not known. The message is meant for the user.</summary>
public sealed class NotKnownException : Exception
{
    /// <summary>Makes the exception with its sentence.</summary>
    public NotKnownException(string message) : base(message)
    {
    }

    /// <summary>Makes the exception with its sentence and its cause.</summary>
    public NotKnownException(string message, Exception inner) : base(message, inner)
    {
    }

    /// <summary>Makes the exception without a sentence.</summary>
    public NotKnownException()
    {
    }
}

/// <summary>Turns exceptions into problem details (RFC 9457) with a sentence that says what went wrong and what to do.</summary>
public sealed partial class Problems(ILogger<Problems> logger) : IExceptionHandler
{
    /// <inheritdoc/>
    public async ValueTask<bool> TryHandleAsync(HttpContext httpContext, Exception exception, CancellationToken cancellationToken)
    {
        ArgumentNullException.ThrowIfNull(httpContext);
        var (status, title) = Describe(exception);
        if (status == StatusCodes.Status500InternalServerError)
        {
            LogUnexpected(logger, httpContext.Request.Path, exception);
        }
        var problem = new ProblemDetails { Status = status, Title = title };
        if (exception is PlanRefusedException refused)
        {
            problem.Extensions["reasons"] = refused.Reasons;
        }
        httpContext.Response.StatusCode = status;
        await httpContext.Response.WriteAsJsonAsync(problem, options: null, contentType: "application/problem+json", cancellationToken);
        return true;
    }

    /// <summary>The status and the sentence for an exception.</summary>
    public static (int Status, string Title) Describe(Exception exception) => exception switch
    {
        NotKnownException => (StatusCodes.Status404NotFound, exception.Message),
        PlanRefusedException => (StatusCodes.Status409Conflict, "Nothing was changed. " + exception.Message),
        PathNotOnShelfException => (StatusCodes.Status400BadRequest, exception.Message),
        BadHttpRequestException bad => (bad.StatusCode, "The request cannot be understood."),
        UnreadableDocumentException => (StatusCodes.Status422UnprocessableEntity, exception.Message),
        IOException or UnauthorizedAccessException => (StatusCodes.Status503ServiceUnavailable, exception.Message + " Nothing was changed."),
        _ => (StatusCodes.Status500InternalServerError, "Something went wrong inside Neat Crate. No file was changed by this request; the log tells more."),
    };

    [LoggerMessage(Level = LogLevel.Error, Message = "Request {Path} failed unexpectedly")]
    private static partial void LogUnexpected(ILogger logger, string path, Exception exception);
}
