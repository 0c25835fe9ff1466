using System.Net;
using System.Net.Sockets;

namespace NeatCrate.Browser.Tests;

/// <summary>A way to the application that can fall silent without being cut, as when a machine hangs.</summary>
internal sealed class FlakyWay : IDisposable
{
    private readonly TcpListener _listener = new(IPAddress.Loopback, 0);
    private readonly CancellationTokenSource _ends = new();
    private volatile bool _isSilent;

    public FlakyWay(Uri to)
    {
        _listener.Start();
        _ = Accept(to.Port);
    }

    public Uri Address => new($"http://127.0.0.1:{((IPEndPoint)_listener.LocalEndpoint).Port}");

    public void FallSilent() => _isSilent = true;

    public void SpeakAgain() => _isSilent = false;

    public void Dispose()
    {
        _ends.Cancel();
        _listener.Stop();
        _ends.Dispose();
    }

    private async Task Accept(int port)
    {
        while (!_ends.IsCancellationRequested)
        {
            var near = await _listener.AcceptTcpClientAsync(_ends.Token);
            var far = new TcpClient();
            await far.ConnectAsync(IPAddress.Loopback, port, _ends.Token);
            _ = Pass(near, far);
            _ = Pass(far, near);
        }
    }

    private async Task Pass(TcpClient from, TcpClient to)
    {
        var buffer = new byte[65_536];
        try
        {
            while (await from.GetStream().ReadAsync(buffer, _ends.Token) is var read and > 0)
            {
                // What comes while it is silent is held back, as a machine that hangs holds it.
                while (_isSilent)
                {
                    await Task.Delay(20, _ends.Token);
                }
                await to.GetStream().WriteAsync(buffer.AsMemory(0, read), _ends.Token);
            }
        }
        catch (Exception e) when (e is IOException or OperationCanceledException or ObjectDisposedException)
        {
            // One end is gone: so is the other.
        }
        to.Close();
    }
}
