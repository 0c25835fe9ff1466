using System.Collections.Immutable;
using NeatCrate.App.Ground;
using NeatCrate.App.Sessions;
using NeatCrate.Core.Bundles;
using NeatCrate.Store;

namespace NeatCrate.App.Bundles;

/// <summary>Those who get bundles of this studio.</summary>
public sealed class RecipientService(StoredSettings settings)
{
    private const string Key = "recipients";
    private const int MostName = 200;
    private const int MostHas = 500;

    private readonly Lock _lock = new();

    /// <summary>All of them by name, those of everybody last.</summary>
    public ImmutableArray<Recipient> All()
    {
        var kept = settings.Read<Recipient[]>(Key) ?? [];
        return [.. kept.OrderBy(r => r.Name, StringComparer.OrdinalIgnoreCase), .. Recipient.Standard.Where(s => !kept.Any(k => IsNamed(k, s.Name)))];
    }

    /// <summary>One of this name; null where nothing is known of them.</summary>
    public Recipient? Of(string? name) => string.IsNullOrWhiteSpace(name) ? null : All().FirstOrDefault(r => IsNamed(r, name));

    /// <summary>Keeps one; what was known of the same name is replaced.</summary>
    public ImmutableArray<Recipient> Save(Recipient recipient)
    {
        ArgumentNullException.ThrowIfNull(recipient);
        var name = recipient.Name?.Trim() ?? "";
        Requests.Require(name.Length is > 0 and <= MostName, $"A recipient has a name of at most {MostName} characters.");
        Requests.Require(Enum.IsDefined(recipient.Work) && Enum.IsDefined(recipient.System) && recipient.LimitBytes is null or > 0, "What a recipient does, has and takes must be something that there is.");
        Requests.Require(recipient.Has is { IsDefault: false, Length: <= MostHas } && recipient.Has.All(h => h is { Length: <= MostName }), $"At most {MostHas} instruments and effects are kept, each with a name of at most {MostName} characters.");
        var kept = recipient with { Name = name, Has = [.. recipient.Has.Select(h => h.Trim()).Where(h => h.Length > 0).Distinct(StringComparer.OrdinalIgnoreCase)] };
        return Change(all => [.. all.Where(r => !IsNamed(r, kept.Name)), kept]);
    }

    /// <summary>Forgets one. Bundles that were made for them stay.</summary>
    /// <exception cref="NotKnownException">None of this name is kept.</exception>
    public ImmutableArray<Recipient> Remove(string name) => Change(all => all.Any(r => IsNamed(r, name))
        ? [.. all.Where(r => !IsNamed(r, name))]
        : throw new NotKnownException($"Nothing is kept of a recipient '{name}' (any more)."));

    private ImmutableArray<Recipient> Change(Func<Recipient[], Recipient[]> change)
    {
        lock (_lock)
        {
            settings.Write(Key, change(settings.Read<Recipient[]>(Key) ?? []));
        }
        return All();
    }

    private static bool IsNamed(Recipient recipient, string name) => recipient.Name.Equals(name.Trim(), StringComparison.OrdinalIgnoreCase);
}
