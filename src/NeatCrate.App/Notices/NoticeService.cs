using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.AspNetCore.SignalR;
using Microsoft.EntityFrameworkCore;
using NeatCrate.App.Jobs;
using NeatCrate.Store;

namespace NeatCrate.App.Notices;

/// <summary>Something that the user should be told once.</summary>
public sealed record NoticeView(Guid Id, Guid? SessionId, string Text, DateTimeOffset Created);

/// <summary>What the user is yet to read.</summary>
public sealed class NoticeService(StoreFiles files, IHubContext<JobsHub> hub, TimeProvider time)
{
    /// <summary>Leaves a notice. The same one is not left twice.</summary>
    public void Tell(Guid? sessionId, string text)
    {
        using var db = files.NewDb();
        if (!db.Notices.Any(n => n.Text == text && n.SessionId == sessionId))
        {
            db.Notices.Add(new NoticeRow { Id = Guid.NewGuid(), SessionId = sessionId, Text = text, CreatedMs = time.GetUtcNow().ToUnixTimeMilliseconds() });
            db.SaveChanges();
            // A page that does not hear of it asks again by itself before long.
            _ = hub.Clients.All.SendAsync("notice");
        }
    }

    /// <summary>All notices that were not dismissed, the oldest first.</summary>
    public NoticeView[] All()
    {
        using var db = files.NewDb();
        return [.. db.Notices.AsNoTracking().OrderBy(n => n.CreatedMs).AsEnumerable()
            .Select(n => new NoticeView(n.Id, n.SessionId, n.Text, DateTimeOffset.FromUnixTimeMilliseconds(n.CreatedMs)))];
    }

    /// <summary>Takes notices back that are not true any more: those that begin so and are about no session.</summary>
    public void TakeBack(string beginning)
    {
        using var db = files.NewDb();
        if (db.Notices.Where(n => n.SessionId == null && n.Text.StartsWith(beginning)).ExecuteDelete() > 0)
        {
            _ = hub.Clients.All.SendAsync("notice");
        }
    }

    /// <summary>Removes a notice that was read.</summary>
    public void Dismiss(Guid id)
    {
        using var db = files.NewDb();
        db.Notices.Where(n => n.Id == id).ExecuteDelete();
    }
}

/// <summary>Requests about notices.</summary>
public static class NoticeEndpoints
{
    /// <summary>Adds the routes.</summary>
    public static void Map(IEndpointRouteBuilder app)
    {
        var group = app.MapGroup("/api/notices").WithTags("Notices");
        group.MapGet("", (NoticeService notices) => TypedResults.Ok(notices.All())).WithName("ListNotices");
        group.MapDelete("{id:guid}", Dismiss).WithName("DismissNotice");
    }

    private static NoContent Dismiss(Guid id, NoticeService notices)
    {
        notices.Dismiss(id);
        return TypedResults.NoContent();
    }
}
