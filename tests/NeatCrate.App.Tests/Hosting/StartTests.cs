using System.Net;
using System.Net.Sockets;
using Microsoft.Data.Sqlite;
using NeatCrate.Testing;

namespace NeatCrate.App.Tests.Hosting;

/// <summary>Every start that cannot work ends at once, with a sentence that says what to do, and changes nothing.</summary>
public sealed class StartTests : IDisposable
{
    private readonly TempFolder _temp = new();

    public void Dispose() => _temp.Dispose();

    private static string Refused(string data, params string[] options)
    {
        var (code, output) = AppProcess.StartRefused(data, ["--no-demo", .. options]);
        Assert.Equal(3, code);
        Assert.DoesNotContain("   at ", output, StringComparison.Ordinal);
        return output;
    }

    [Fact]
    public void APortThatIsTakenIsNamed()
    {
        using var listener = new TcpListener(IPAddress.Loopback, 0);
        listener.Start();
        var port = ((IPEndPoint)listener.LocalEndpoint).Port;
        Assert.Contains($"port {port} already. Start with --port", Refused(_temp.Folder("data"), "--port", $"{port}"), StringComparison.Ordinal);
    }

    [Fact]
    public void AFileInPlaceOfTheDataFolderIsSaidToBeOne()
    {
        File.WriteAllText(_temp.At("data"), "mine");
        Assert.Contains("cannot be used as the data folder", Refused(_temp.At("data")), StringComparison.Ordinal);
        Assert.Equal("mine", File.ReadAllText(_temp.At("data")));
    }

    [Fact]
    public void ADamagedDatabaseIsSaidToBeDamagedAndLeftAsItIs()
    {
        using (var app = AppProcess.Start(_temp.Folder("data"), "--no-demo"))
        {
            app.Terminate();
        }
        var path = _temp.At("data", "neat-crate.db");
        var bytes = File.ReadAllBytes(path);
        bytes.AsSpan(4096, 4096).Fill(0xEE);
        File.WriteAllBytes(path, bytes);
        Assert.Contains("is damaged", Refused(_temp.At("data")), StringComparison.Ordinal);
        Assert.Equal(bytes, File.ReadAllBytes(path));
    }

    [Fact]
    public void ADatabaseOfSomebodyElseIsLeftAsItIs()
    {
        var path = _temp.At("data", "neat-crate.db");
        using (var db = new SqliteConnection($"Data Source={path};Pooling=False"))
        {
            db.Open();
            using var command = db.CreateCommand();
            command.CommandText = "CREATE TABLE recipes (name TEXT)";
            command.ExecuteNonQuery();
        }
        var bytes = File.ReadAllBytes(path);
        Assert.Contains("is no database of Neat Crate", Refused(_temp.At("data")), StringComparison.Ordinal);
        Assert.Equal(bytes, File.ReadAllBytes(path));
    }

    [Theory]
    [InlineData("--port", "99999")]
    [InlineData("--port")]
    [InlineData("--data", "")]
    [InlineData("--history-days", "0")]
    [InlineData("--history-days", "soon")]
    [InlineData("--nonsense")]
    public void AnOptionThatMakesNoSenseIsSaidToMakeNone(params string[] options)
    {
        var (code, output) = AppProcess.StartRefused(_temp.Folder("data"), options);
        Assert.Equal(2, code);
        Assert.Single(output.Split('\n', StringSplitOptions.RemoveEmptyEntries));
    }

    /// <summary>A shelf that has left since it was last seen is away, and no reason not to start.</summary>
    [Fact]
    public async Task AShelfThatIsAwayDoesNotKeepItFromStarting()
    {
        var cancel = TestContext.Current.CancellationToken;
        using (var app = AppProcess.Start(_temp.Folder("data"), "--no-demo"))
        {
            var id = await app.AddShelf("Field card", "Removable", _temp.Folder("card"), cancel);
            await app.Scan(id, cancel);
            app.Terminate();
        }
        Directory.Move(_temp.At("card"), _temp.At("card elsewhere"));
        using var again = AppProcess.Start(_temp.Folder("data"), "--no-demo");
        var shelf = Assert.Single((await again.Get("/api/shelves", cancel)).AsArray())!;
        Assert.Equal(("Field card", false), (shelf["name"]!.GetValue<string>(), shelf["connected"]!.GetValue<bool>()));
    }

    [Fact]
    public async Task WhatWasRefusedStandsInTheLog()
    {
        using var app = AppProcess.Start(_temp.Folder("data"), "--no-demo");
        using var answer = await app.Client.GetAsync(new Uri("/api/sessions/00000000-0000-0000-0000-000000000000", UriKind.Relative), TestContext.Current.CancellationToken);
        Assert.Equal(HttpStatusCode.NotFound, answer.StatusCode);
        app.Terminate();
        var log = await File.ReadAllTextAsync(Assert.Single(Directory.GetFiles(_temp.At("data", "logs"))), TestContext.Current.CancellationToken);
        Assert.Contains("GET /api/sessions/00000000-0000-0000-0000-000000000000 responded 404", log.Replace("\"", "", StringComparison.Ordinal), StringComparison.Ordinal);
    }
}
