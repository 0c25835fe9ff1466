namespace NeatCrate.Core.Plans;

/// <summary>Who asked for something: it stands in plans, work, journal and history, so that several people can be told apart.</summary>
/// <param name="Id">By what they are known; it never comes to mean somebody else.</param>
/// <param name="Name">What they are called.</param>
public sealed record Who(string Id, string Name)
{
    /// <summary>Whoever sits at this machine: the one user that there is as long as nobody signs in.</summary>
    public static Who AtThisMachine { get; } = new("this-machine", Environment.UserName);

    /// <summary>Neat Crate by itself, as with what is due at a time of the day.</summary>
    public static Who ByItself { get; } = new("by-itself", "Neat Crate");
}
