namespace NeatCrate.App.Ground;

/// <summary>Refuses requests that make no sense.</summary>
public static class Requests
{
    /// <summary>Refuses a request unless a condition holds.</summary>
    /// <param name="holds">The condition.</param>
    /// <param name="otherwise">What is wrong, a sentence for the user.</param>
    /// <exception cref="FaultException">It does not (<see cref="FaultCode.RequestSenseless"/>).</exception>
    public static void Require(bool holds, string otherwise)
    {
        if (!holds)
        {
            throw new FaultException(new Fault(FaultCode.RequestSenseless) { Detail = otherwise });
        }
    }

    /// <summary>Refuses a list with more things than anybody chooses, or with nothing where a thing should be.</summary>
    /// <exception cref="FaultException">It is one (<see cref="FaultCode.RequestSenseless"/>).</exception>
    public static void RequireList<T>(IReadOnlyCollection<T>? list, int most, string what)
    {
        Require(list is not null && list.All(i => i is not null), $"The list of {what} is not complete.");
        Require(list!.Count <= most, $"No more than {most} {what} can be taken at once.");
    }
}
