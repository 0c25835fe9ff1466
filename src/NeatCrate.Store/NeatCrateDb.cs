using Microsoft.EntityFrameworkCore;

namespace NeatCrate.Store;

/// <summary>The database: journal, history, settings, and what can be found again by looking.</summary>
public sealed class NeatCrateDb(DbContextOptions<NeatCrateDb> options) : DbContext(options)
{
    /// <summary>Known shelves.</summary>
    public DbSet<ShelfRow> Shelves => Set<ShelfRow>();

    /// <summary>Known sessions.</summary>
    public DbSet<SessionRow> Sessions => Set<SessionRow>();

    /// <summary>Journal and history.</summary>
    public DbSet<PlanRow> Plans => Set<PlanRow>();

    /// <summary>Steps of the journal.</summary>
    public DbSet<StepRow> Steps => Set<StepRow>();

    /// <summary>Takes that were recorded with a mirror.</summary>
    public DbSet<MirrorRow> Mirrors => Set<MirrorRow>();

    /// <summary>What the user is yet to read.</summary>
    public DbSet<NoticeRow> Notices => Set<NoticeRow>();

    /// <summary>Remembered choices.</summary>
    public DbSet<SettingRow> Settings => Set<SettingRow>();

    /// <summary>Scans of shelves.</summary>
    public DbSet<ScanRow> Scans => Set<ScanRow>();

    /// <summary>Folders in the catalogue.</summary>
    public DbSet<CatalogueFolderRow> CatalogueFolders => Set<CatalogueFolderRow>();

    /// <summary>Files in the catalogue.</summary>
    public DbSet<CatalogueFileRow> CatalogueFiles => Set<CatalogueFileRow>();

    /// <summary>Files that are gone from shelves that are there.</summary>
    public DbSet<GoneFileRow> GoneFiles => Set<GoneFileRow>();

    /// <summary>Identities of files.</summary>
    public DbSet<IdentityRow> Identities => Set<IdentityRow>();

    /// <summary>What files hold that went into a vault.</summary>
    public DbSet<ContentRow> Contents => Set<ContentRow>();

    /// <summary>Bundles on shelves.</summary>
    public DbSet<BundleRow> Bundles => Set<BundleRow>();

    /// <inheritdoc/>
    protected override void OnModelCreating(ModelBuilder modelBuilder)
    {
        ArgumentNullException.ThrowIfNull(modelBuilder);
        modelBuilder.Entity<ShelfRow>(e =>
        {
            e.HasIndex(s => s.Root).IsUnique();
            e.Property(s => s.Kind).HasConversion<string>();
        });
        modelBuilder.Entity<SessionRow>().HasIndex(s => s.Folder).IsUnique();
        modelBuilder.Entity<PlanRow>(e =>
        {
            e.HasIndex(p => new { p.SessionId, p.BegunMs });
            e.HasIndex(p => p.State);
            // Holds all that the history shows, so that the texts of large plans, which stand between, are not gone through.
            e.HasIndex(p => new { p.SessionId, p.EndedMs, p.Id, p.Kind, p.Sentence, p.State, p.Note, p.IsKept, p.Undoes, p.MadePath }).HasDatabaseName("IX_Plans_History");
            e.Property(p => p.IsKept).HasDefaultValue(true).HasSentinel(true);
            // What was applied before there was this column has been followed.
            e.Property(p => p.Followed).HasDefaultValue(true);
        });
        modelBuilder.Entity<StepRow>().HasKey(s => new { s.PlanId, s.Index });
        modelBuilder.Entity<MirrorRow>(e =>
        {
            e.HasIndex(m => m.SessionId);
            e.HasIndex(m => m.MirrorPath).IsUnique();
            e.Property(m => m.State).HasConversion<string>();
        });
        modelBuilder.Entity<ScanRow>().HasKey(s => s.ShelfId);
        modelBuilder.Entity<CatalogueFolderRow>().HasIndex(f => new { f.ShelfId, f.Path }).IsUnique();
        modelBuilder.Entity<CatalogueFileRow>(e =>
        {
            e.HasIndex(f => new { f.FolderId, f.Name }).IsUnique();
            e.Property(f => f.Kind).HasConversion<string>();
            // The few archives among a hundred thousand files are found without going through those.
            e.HasIndex(f => new { f.FolderId, f.Name, f.Bytes, f.ChangedTicks }).HasDatabaseName(Catalogue.ArchivesIndex).HasFilter(Catalogue.IsArchive);
        });
        modelBuilder.Entity<BundleRow>().HasKey(b => new { b.ShelfId, b.Path });
        modelBuilder.Entity<IdentityRow>(e =>
        {
            e.HasKey(i => new { i.ShelfId, i.Path });
            e.HasIndex(i => i.Hash);
            e.HasIndex(i => i.Sound);
            e.HasIndex(i => i.Samples);
        });
        modelBuilder.Entity<GoneFileRow>(e =>
        {
            e.HasKey(g => new { g.ShelfId, g.Path });
            e.HasIndex(g => g.FoldedName);
            e.HasIndex(g => new { g.Bytes, g.LengthSamples });
            e.Property(g => g.Kind).HasConversion<string>();
        });
        modelBuilder.Entity<ContentRow>().HasKey(c => c.Path);
        modelBuilder.Entity<SettingRow>().HasKey(s => s.Key);
    }
}
