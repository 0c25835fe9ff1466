using NeatCrate.App.Bundles;
using NeatCrate.App.CopyIn;
using NeatCrate.App.Ground;
using NeatCrate.App.Notices;
using NeatCrate.App.Plans;
using NeatCrate.App.Sessions;
using NeatCrate.App.Shelves;
using NeatCrate.App.Words;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Relink;
using NeatCrate.StandIns.Demo;
using NeatCrate.Store;

namespace NeatCrate.App.Hosting;

/// <summary>What is done before the first request is answered.</summary>
public static class FirstStart
{
    private const string DemoKnown = "demo-known";
    private const string NoDemo = "The demo could not be made.";

    /// <summary>Opens the database, deals with work that was cut off, and makes the demo when there is none yet.</summary>
    /// <exception cref="FaultException">The data folder or the database cannot be used.</exception>
    public static void Prepare(IServiceProvider services, AppOptions options)
    {
        ArgumentNullException.ThrowIfNull(services);
        ArgumentNullException.ThrowIfNull(options);
        services.GetRequiredService<StoreFiles>();
        services.GetRequiredService<AppliedPlans>().Recover(services.GetRequiredService<Runner>());
        services.GetRequiredService<PlanJournal>().Thin(TimeSpan.FromDays(options.HistoryDays));
        services.GetRequiredService<Uploads>().RemoveOld();
        if (options.Demo)
        {
            TryMakeDemo(services, Path.Combine(options.DataFolder, "demo"));
        }
    }

    /// <summary>Without the demo everything else works: a drive that is too full for it must not keep anybody from their sessions.</summary>
    private static void TryMakeDemo(IServiceProvider services, string root)
    {
        try
        {
            MakeDemo(services, root);
            services.GetRequiredService<NoticeService>().TakeBack(NoDemo);
        }
        catch (Exception e) when (FaultException.Of(e) is not null)
        {
            services.GetRequiredService<NoticeService>().Tell(null, $"{NoDemo} {Sentences.Of(FaultException.Of(e)!)} Everything else works.");
        }
    }

    private static void MakeDemo(IServiceProvider services, string root)
    {
        DemoWorld.Make(root);
        using var db = services.GetRequiredService<StoreFiles>().NewDb();
        // Shelves and sessions of the demo that the user has forgotten stay forgotten.
        if (db.Settings.Any(s => s.Key == DemoKnown))
        {
            return;
        }
        var shelves = services.GetRequiredService<ShelfService>();
        var known = shelves.All().Select(s => s.Root).ToHashSet(StringComparer.Ordinal);
        foreach (var (name, kind, folder) in DemoWorld.Shelves(root).Where(s => !known.Contains(s.Root)))
        {
            shelves.Know(name, kind, folder);
        }
        var sessions = services.GetRequiredService<SessionService>();
        foreach (var folder in DemoWorld.SessionFolders(root))
        {
            sessions.Know(folder);
        }
        var recipients = services.GetRequiredService<RecipientService>();
        foreach (var recipient in DemoWorld.Recipients.Where(r => recipients.Of(r.Name) is null))
        {
            recipients.Save(recipient);
        }
        RememberRenamed(services.GetRequiredService<IIdentities>(), root);
        db.Settings.Add(new SettingRow { Key = DemoKnown, Value = "true" });
        db.SaveChanges();
    }

    /// <summary>What the demo's sessions use was read at rest before its folder was renamed, as it would have been.</summary>
    private static void RememberRenamed(IIdentities identities, string root)
    {
        var (before, now) = DemoWorld.RenamedFolder(root);
        // Cut off here before, it stands under its old name.
        if (Directory.Exists(now) && !Directory.Exists(before))
        {
            Directory.Move(now, before);
        }
        if (!Directory.Exists(before))
        {
            return;
        }
        foreach (var file in Directory.GetFiles(before))
        {
            identities.Identify(file, MediaHeaderReader.ReadFile(file), null, CancellationToken.None);
        }
        Directory.Move(before, now);
    }
}
