using NeatCrate.Core.Plans;

namespace NeatCrate.App.Jobs;

/// <summary>Tells who asks at this moment.</summary>
public interface IAsker
{
    /// <summary>Who asks now.</summary>
    Who Now { get; }
}

/// <summary>Whoever sits at this machine: nobody signs in.</summary>
public sealed class AskerAtThisMachine : IAsker
{
    /// <inheritdoc/>
    public Who Now => Who.AtThisMachine;
}
