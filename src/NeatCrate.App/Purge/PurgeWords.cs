using NeatCrate.Core.Purge;
using NeatCrate.Core.Words;

namespace NeatCrate.App.Purge;

/// <summary>Reasons in words for the user.</summary>
public static class PurgeWords
{
    private const int MostNamed = 3;

    /// <summary>Why a file counts as used, or what must be known of it.</summary>
    public static string Of(CountedReason reason)
    {
        ArgumentNullException.ThrowIfNull(reason);
        return reason.Why switch
        {
            UseReason.Placed => (reason.Times == 1 ? "placed once" : $"placed {reason.Times} times") + On(reason),
            UseReason.OlderVersion => $"placed in {(reason.Times == 1 ? "an older version" : $"{reason.Times} older versions")}: {Names(reason)}" + (reason.Protects ? "" : " (not counted)"),
            UseReason.KeptSave => $"placed in {(reason.Times == 1 ? "a kept save" : $"{reason.Times} kept saves")}: {Names(reason)}" + (reason.Protects ? "" : " (not counted)"),
            UseReason.OtherSession => $"used by {(reason.Times == 1 ? "another session" : $"{reason.Times} other sessions")}: {Names(reason)}" + (reason.Protects ? "" : " (not counted)"),
            UseReason.Named => $"pointed at by data of another program, or through an instrument, in {Names(reason)}",
            UseReason.PlaysInInstrument => $"a sample of {Names(reason)}",
            UseReason.UseUnknown => $"{Names(reason)} cannot be read, and may use it",
            UseReason.NamedNowhere => $"named nowhere in {Names(reason)}, and may be used all the same",
            UseReason.BeingWritten => "being written now",
            UseReason.OnlySound => $"the only sound of '{reason.Names[0]}' here: its instrument is not",
            UseReason.Listed => "listed, placed by no clip",
            UseReason.NotInSession => "not in the session yet",
            UseReason.Keeper => "marked as keeper",
            UseReason.Render => $"a render of '{reason.Names[0]}', whose instrument is here",
            UseReason.Bounce => "a finished mix",
            UseReason.SameSound => $"the same sound as {Names(reason)}",
            _ => "set aside",
        };
    }

    private static string On(CountedReason reason) => reason.Names.IsEmpty ? "" : $" on {string.Join(", ", reason.Names.Take(MostNamed))}{More(reason)}";

    private static string Names(CountedReason reason) => string.Join(", ", reason.Names.Take(MostNamed).Select(n => $"'{n}'")) + More(reason);

    private static string More(CountedReason reason) => reason.Names.Length > MostNamed ? $" and {reason.Names.Length - MostNamed} more" : "";
}
