using NeatCrate.Core.Media;

namespace NeatCrate.App.Jobs;

/// <summary>Identities for a job: what is read for them counts as its progress, and waits while something records.</summary>
internal sealed class WatchedIdentities(IIdentities identities, Job job) : IIdentities
{
    public FileIdentities Identify(string path, MediaHeader? header, Action<long>? read, CancellationToken cancel)
    {
        var name = Path.GetFileName(path);
        return identities.Identify(
            path,
            header,
            bytes =>
            {
                job.Read(bytes, name);
                read?.Invoke(bytes);
            },
            cancel);
    }

    public SampleIdentity? IdentifySamples(string path, MediaHeader header, Action? between, CancellationToken cancel) => identities.IdentifySamples(
        path,
        header,
        () =>
        {
            job.HoldWhileRecording();
            between?.Invoke();
        },
        cancel);
}
