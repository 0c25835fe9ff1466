using Microsoft.AspNetCore.Diagnostics;
using Microsoft.AspNetCore.Mvc;
using NeatCrate.App.Words;
using NeatCrate.Core.Documents;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Sessions;
using NeatCrate.Core.Shelves;
using NeatCrate.Store;

namespace NeatCrate.App.Ground;

/// <summary>What was asked for is not known.</summary>
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
    private const int InsufficientStorage = 507;

    /// <inheritdoc/>
    public async ValueTask<bool> TryHandleAsync(HttpContext httpContext, Exception exception, CancellationToken cancellationToken)
    {
        ArgumentNullException.ThrowIfNull(httpContext);
        if (exception is OperationCanceledException && httpContext.RequestAborted.IsCancellationRequested)
        {
            // Nobody waits for the answer any more.
            httpContext.Response.StatusCode = StatusCodes.Status499ClientClosedRequest;
            return true;
        }
        var (status, title, code) = Describe(exception);
        if (status == StatusCodes.Status500InternalServerError)
        {
            LogUnexpected(logger, httpContext.Request.Path, exception);
        }
        var problem = new ProblemDetails { Status = status, Title = title };
        if (code is { } known)
        {
            problem.Extensions["code"] = known.ToString();
        }
        if (exception is PlanRefusedException refused)
        {
            problem.Extensions["reasons"] = refused.Reasons.Select(Sentences.Of).ToArray();
        }
        httpContext.Response.StatusCode = status;
        LocalOnly.Protect(httpContext.Response);
        await httpContext.Response.WriteAsJsonAsync(problem, options: null, contentType: "application/problem+json", cancellationToken);
        return true;
    }

    /// <summary>The status, the sentence and the code for an exception. Whether files were changed is told by whoever changed them, not here.</summary>
    public static (int Status, string Title, FaultCode? Code) Describe(Exception exception)
    {
        if (exception is NotKnownException)
        {
            return (StatusCodes.Status404NotFound, exception.Message, FaultCode.NotKnown);
        }
        if (exception is BadHttpRequestException bad)
        {
            return (bad.StatusCode, "The request cannot be understood.", FaultCode.RequestSenseless);
        }
        if (exception is PlanRefusedException refused)
        {
            return (StatusCodes.Status409Conflict, "Nothing was changed. " + Sentences.Of(refused.Reasons), refused.Fault.Code);
        }
        var fault = StoreFiles.FaultOf(exception) ?? FaultException.Of(exception);
        return fault is null
            ? (StatusCodes.Status500InternalServerError, "Something went wrong inside Neat Crate; the log tells more.", null)
            : (StatusOf(exception, fault), Sentences.Of(fault), fault.Code);
    }

    private static int StatusOf(Exception exception, Fault fault) => exception switch
    {
        PathNotOnShelfException => StatusCodes.Status400BadRequest,
        UnreadableDocumentException or UnreadableMediaException => StatusCodes.Status422UnprocessableEntity,
        _ => fault.Code switch
        {
            FaultCode.RequestSenseless => StatusCodes.Status400BadRequest,
            FaultCode.PlanningStopped or FaultCode.LookStopped or FaultCode.SessionCardInTheWay => StatusCodes.Status409Conflict,
            FaultCode.DocumentTooLarge => StatusCodes.Status422UnprocessableEntity,
            FaultCode.NotThere or FaultCode.NotKnown or FaultCode.NotARegularFile => StatusCodes.Status404NotFound,
            FaultCode.DatabaseFull or FaultCode.NoSpace => InsufficientStorage,
            _ => StatusCodes.Status503ServiceUnavailable,
        },
    };

    [LoggerMessage(Level = LogLevel.Error, Message = "Request {Path} failed unexpectedly")]
    private static partial void LogUnexpected(ILogger logger, string path, Exception exception);
}
