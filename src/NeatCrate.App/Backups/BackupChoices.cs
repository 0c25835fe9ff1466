using System.Collections.Immutable;
using NeatCrate.App.Ground;
using NeatCrate.Core.Vault;
using NeatCrate.Store;

namespace NeatCrate.App.Backups;

/// <summary>How a session is backed up.</summary>
/// <param name="KeepsInSession">Whether states of documents are kept in the session folder; otherwise only elsewhere.</param>
/// <param name="SecondShelf">The shelf that is the second place of states of documents; null for none.</param>
/// <param name="WithOutside">Whether media that stand outside go along into full backups.</param>
/// <param name="Wanted">In so many places each media file is wanted.</param>
/// <param name="DailyAt">Local time of day at which a full backup is made, as <c>HH:mm</c>; null for none.</param>
/// <param name="AtRest">Whether one is made once nothing changed for a while, as at the close of day.</param>
/// <param name="WhenPluggedIn">Whether one is made when the drive of a vault that has backups of the session comes back.</param>
/// <param name="Thinning">How many backups are kept when they are thinned out.</param>
public sealed record BackupChoice(bool KeepsInSession, Guid? SecondShelf, bool WithOutside, int Wanted, string? DailyAt, bool AtRest, bool WhenPluggedIn, ThinningPolicy Thinning)
{
    /// <summary>What holds until somebody chooses, for one session or for all.</summary>
    public static BackupChoice Standard { get; } = new(true, null, true, 2, null, false, true, new ThinningPolicy());
}

/// <summary>What is known of a vault besides its backups.</summary>
/// <param name="IsAwayFromHouse">Whether it is kept away from the house.</param>
/// <param name="CheckedNext">Name of the content with which the next share of a check begins; null for the first.</param>
/// <param name="Checked">When a share was checked last.</param>
/// <param name="CheckedWhole">When all of it had been checked last.</param>
/// <param name="Damaged">Names of what was found damaged and could not be healed.</param>
public sealed record VaultRecord(bool IsAwayFromHouse, string? CheckedNext, DateTimeOffset? Checked, DateTimeOffset? CheckedWhole, ImmutableArray<string> Damaged)
{
    /// <summary>What holds of a new one.</summary>
    public static VaultRecord New { get; } = new(false, null, null, null, []);
}

/// <summary>Remembers for every session how it is backed up, and for every vault what was found in it.</summary>
public sealed class BackupChoices
{
    private const string SessionPrefix = "backup ";
    private const string VaultPrefix = "vault ";
    private const string ForAll = "backup-standard";

    private readonly StoredSettings _settings;
    private readonly ReadOnce<BackupChoice> _standard;
    private readonly KeyedSettings<BackupChoice> _sessions;
    private readonly KeyedSettings<VaultRecord> _vaults;

    /// <summary>Remembers them with the other choices.</summary>
    public BackupChoices(StoredSettings settings)
    {
        _settings = settings;
        _standard = new ReadOnce<BackupChoice>(() => settings.Read<BackupChoice>(ForAll) ?? BackupChoice.Standard);
        _sessions = new KeyedSettings<BackupChoice>(settings, SessionPrefix, () => _standard.Value);
        _vaults = new KeyedSettings<VaultRecord>(settings, VaultPrefix, VaultRecord.New);
    }

    /// <summary>How every session is backed up for which nothing else was chosen.</summary>
    public BackupChoice Standard => _standard.Value;

    /// <summary>How a session is backed up.</summary>
    public BackupChoice Of(Guid sessionId) => _sessions.Of(sessionId);

    /// <summary>What is known of a vault.</summary>
    public VaultRecord OfVault(Guid shelfId) => _vaults.Of(shelfId);

    /// <summary>Chooses for all sessions for which nothing else was chosen, those of today as well.</summary>
    public void ChooseForAll(BackupChoice choice)
    {
        _settings.Write(ForAll, choice);
        _standard.Changed();
    }

    /// <summary>Chooses for a session.</summary>
    public void Choose(Guid sessionId, BackupChoice choice) => _sessions.Change(sessionId, _ => choice);

    /// <summary>Takes in something of a vault.</summary>
    public void Change(Guid shelfId, Func<VaultRecord, VaultRecord> change) => _vaults.Change(shelfId, change);
}
