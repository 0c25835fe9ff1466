using NeatCrate.Core.Inventory;
using NeatCrate.Core.Media;
using NeatCrate.Core.Sessions;

namespace NeatCrate.Core.Arrivals;

/// <summary>What the user should know of a file before it comes in.</summary>
internal static class ArrivalRemarks
{
    /// <summary>That it gets another name, and that a file inside sounds like it.</summary>
    /// <param name="name">The name that it has.</param>
    /// <param name="arrival">Where it arrives.</param>
    public static IEnumerable<Fault> Of(string name, Destination arrival)
    {
        var arrivesAs = Path.GetFileName(arrival.Path);
        if (arrival.IsCopied && arrivesAs != name)
        {
            yield return new Fault(FaultCode.ComesInAs) { Name = name, Other = arrivesAs, Reasons = [.. PortableName.Problems(name)] };
        }
        if (arrival.SoundsLike is { } twin)
        {
            yield return new Fault(FaultCode.SameSoundInside) { Name = name, Other = twin };
        }
    }

    /// <summary>That another program's document goes on naming files where they are: nobody here can tell it of a copy.</summary>
    /// <param name="files">The files that are copied.</param>
    /// <param name="inventory">The inventory of their session.</param>
    public static IEnumerable<Fault> StayNamed(IEnumerable<InventoryFile> files, SessionInventory inventory)
    {
        if (files.Count(f => f.NamedTimes > 0) is var named and > 0)
        {
            yield return new Fault(FaultCode.NamesStayAsTheyAre) { Names = inventory.NamingNow, Count = named };
        }
    }

    /// <summary>That it plays at another speed and pitch in a session of another rate.</summary>
    /// <param name="name">The name that it has.</param>
    /// <param name="header">Its header, with its own rate.</param>
    /// <param name="sessionRate">The session's rate, in Hz.</param>
    /// <param name="done">What is done about it.</param>
    public static Fault RateDiffers(string name, MediaHeader header, int sessionRate, FaultCode done) =>
        new(FaultCode.RateDiffers) { Name = name, Count = header.SampleRate, Expected = sessionRate, Reasons = [new Fault(done)] };
}
