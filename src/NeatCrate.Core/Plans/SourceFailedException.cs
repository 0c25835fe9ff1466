namespace NeatCrate.Core.Plans;

/// <summary>A file that was to be copied cannot be had: its drive left, it cannot be read, or it changed. The message is meant for the user.</summary>
public sealed class SourceFailedException : IOException
{
    /// <summary>Makes the exception with its sentence.</summary>
    public SourceFailedException(string message) : base(message)
    {
    }

    /// <summary>Makes the exception with its sentence and its cause.</summary>
    public SourceFailedException(string message, Exception inner) : base(message, inner)
    {
    }

    /// <summary>Makes the exception without a sentence.</summary>
    public SourceFailedException()
    {
    }
}
