using System.Text.Json.Serialization;

namespace NeatCrate.Core.Origins;

/// <summary>What is done with a file's sound on its way into a new file.</summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "transform")]
[JsonDerivedType(typeof(ConvertRate), "convert-rate")]
[JsonDerivedType(typeof(CutFlac), "cut-flac")]
public abstract record FileTransform
{
    /// <summary>What it does, as a verb for the user.</summary>
    [JsonIgnore]
    public abstract string Verb { get; }

    /// <summary>Writes the new file.</summary>
    /// <param name="target">Where to; one can go back in it to what was written.</param>
    /// <param name="source">Absolute path of the file that is read.</param>
    /// <param name="cancel">Stops between two blocks.</param>
    /// <exception cref="Faults.FaultException">The file cannot be read as sound, or not to its end.</exception>
    public abstract void WriteTo(Stream target, string source, CancellationToken cancel);
}
