using System.Text.RegularExpressions;
using NeatCrate.Core.Bundles;
using NeatCrate.Core.Inventory;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Tests.Files;
using NeatCrate.Core.Tests.Plans;
using NeatCrate.Testing;

namespace NeatCrate.Core.Tests.Bundles;

/// <summary>A bundle as a folder, and in numbered parts: whole or not there at all, checked by tools that are not ours, and gone after an undo.</summary>
public sealed partial class BundleFormTests : IDisposable
{
    private const int PartBytes = 100_000;

    private static readonly DateTimeOffset Now = new(2026, 10, 14, 23, 30, 5, TimeSpan.FromHours(2));

    private readonly SessionFixture _session = new();
    private readonly MemoryJournal _journal = new();

    public BundleFormTests()
    {
        for (var n = 1; n <= 40; n++)
        {
            _session.Place(SessionFixture.Sound(_session.Inside("Audio", $"Cello {n:00}.wav"), seed: n), "Cello");
        }
        _session.Place(SessionFixture.Sound(Path.Combine(_session.Card, "tide.wav"), seed: 50)).Save();
        Directory.CreateDirectory(_session.Inside("Notes"));
        File.SetUnixFileMode(_session.Inside("Audio", "Cello 01.wav"), UnixFileMode.UserRead | UnixFileMode.GroupRead);
    }

    public void Dispose() => _session.Dispose();

    private Plan Plan(BundleForm form, long partBytes = PartBytes) => BundlePlanner.Plan(new BundleRequest(
        _session.SessionId, _session.Inventory(), _session.Shelves, [_session.Folder], _session.Outbox, BundleParts.Standard, null, null, Now)
    { Form = form, PartBytes = partBytes });

    private string Pack(BundleForm form, out Plan plan, long partBytes = PartBytes)
    {
        plan = Plan(form, partBytes);
        _journal.Apply(plan);
        return Assert.Single(Directory.GetFileSystemEntries(_session.Outbox));
    }

    private void Undo(Plan plan) => _journal.Apply(UndoPlanner.Plan(plan, _journal.Records(plan)));

    /// <summary>The folder is a bag (RFC 8493): sha512sum (GNU) finds all of it, the session opens in it, and times and modes are those of the files.</summary>
    [Fact]
    public void AFolderIsABagThatOpens()
    {
        var bag = Pack(BundleForm.Folder, out var plan);
        Assert.Equal("261014 Net Mender 2026-10-14_233005", Path.GetFileName(bag));
        Assert.DoesNotContain("FAILED", Tool.RunIn(bag, "sha512sum", "--strict", "-c", "manifest-sha512.txt"), StringComparison.Ordinal);
        Assert.DoesNotContain("FAILED", Tool.RunIn(bag, "sha512sum", "--strict", "-c", "tagmanifest-sha512.txt"), StringComparison.Ordinal);
        var there = _session.Inventory(Path.Combine(bag, "data", SessionFixture.Name));
        Assert.Equal(41, there.Files.Count(f => f is { Standing: Standing.Inside, Use: FileUse.Placed }));
        Assert.True(Directory.Exists(Path.Combine(there.Folder, "Notes")));
        var (here, copy) = (_session.Inside("Audio", "Cello 01.wav"), Path.Combine(there.Folder, "Audio", "Cello 01.wav"));
        Assert.Equal((File.GetUnixFileMode(here), File.GetLastWriteTimeUtc(here)), (File.GetUnixFileMode(copy), File.GetLastWriteTimeUtc(copy)));
        Undo(plan);
        Assert.Empty(Directory.GetFileSystemEntries(_session.Outbox));
    }

    /// <summary>Each part is checked by itself (sha512sum, GNU), and has no more bytes than were asked for; joined by cat they are one ZIP file that unzip, 7-Zip and bsdtar read without a fault.</summary>
    [Fact]
    public void PartsAreCheckedByThemselvesAndJoined()
    {
        var folder = Pack(BundleForm.Parts, out var plan);
        var parts = Directory.GetFiles(folder, "*.zip.*").Order(StringComparer.Ordinal).ToList();
        Assert.Equal(Enumerable.Range(1, parts.Count).Select(n => $"261014 Net Mender.zip.{n:000}"), parts.Select(p => Path.GetFileName(p)));
        Assert.All(parts[..^1], p => Assert.Equal(PartBytes, new FileInfo(p).Length));
        Assert.InRange(new FileInfo(parts[^1]).Length, 1, PartBytes);
        Assert.Equal(parts.Count, Tool.RunIn(folder, "sha512sum", "--strict", "-c", "Check sums.sha512").Split('\n').Count(l => l.EndsWith(": OK", StringComparison.Ordinal)));
        // The one that is damaged is named, and no other.
        var bytes = File.ReadAllBytes(parts[1]);
        File.WriteAllBytes(parts[1], [.. bytes[..^1], (byte)~bytes[^1]]);
        Assert.Equal(".002: FAILED", Assert.Single(Damaged().Matches(Tool.Try(folder, "sha512sum", "-c", "Check sums.sha512").Output)).Value);
        File.WriteAllBytes(parts[1], bytes);
        Tool.RunIn(folder, "sh", "-c", Joined().Match(File.ReadAllText(Path.Combine(folder, "How to join.txt"))).Value.Trim());
        var whole = Path.Combine(folder, "261014 Net Mender.zip");
        Assert.Contains("No errors detected", Tool.Run("unzip", "-t", whole), StringComparison.Ordinal);
        Assert.Contains("Everything is Ok", Tool.Run("7zz", "t", whole), StringComparison.Ordinal);
        Assert.Contains("manifest-sha512.txt", Tool.Run("bsdtar", "-tf", whole), StringComparison.Ordinal);
        // One common program opens the first part and finds the others.
        Assert.Contains("Everything is Ok", Tool.Run("7zz", "t", parts[0]), StringComparison.Ordinal);
        File.Delete(whole);
        Undo(plan);
        Assert.Empty(Directory.GetFileSystemEntries(_session.Outbox));
    }

    /// <summary>A name with an apostrophe in it is joined by the command that lies beside the parts, too.</summary>
    [Fact]
    public void PartsOfAnyNameAreJoined()
    {
        var plan = Plan(BundleForm.Parts);
        var step = Assert.IsType<PackBundleFolderStep>(plan.Steps[0]);
        _journal.Apply(plan with { Steps = [step with { Contents = step.Contents with { BagName = "It's $(low) water" } }] });
        var folder = Assert.Single(Directory.GetDirectories(_session.Outbox));
        Tool.RunIn(folder, "sh", "-c", Joined().Match(File.ReadAllText(Path.Combine(folder, "How to join.txt"))).Value.Trim());
        Assert.Contains("No errors detected", Tool.Run("unzip", "-t", Path.Combine(folder, "It's $(low) water.zip")), StringComparison.Ordinal);
    }

    /// <summary>What somebody put into it, changed or took out of it keeps the folder: it is no longer what was packed.</summary>
    [Theory]
    [InlineData("added")]
    [InlineData("changed")]
    [InlineData("removed")]
    [InlineData("folder")]
    [InlineData("link")]
    public void WhatIsNoLongerWhatWasPackedStays(string what)
    {
        var bag = Pack(BundleForm.Folder, out var plan);
        var (file, outside) = (Path.Combine(bag, "data", SessionFixture.Name, "Audio", "Cello 02.wav"), Path.Combine(_session.Card, "tide.wav"));
        switch (what)
        {
            case "added":
                File.WriteAllText(Path.Combine(bag, "data", "remember.txt"), "the milk");
                break;
            case "changed":
                File.WriteAllBytes(file, [.. File.ReadAllBytes(file)[..^1], 7]);
                break;
            case "removed":
                File.Delete(file);
                break;
            case "folder":
                Directory.CreateDirectory(Path.Combine(bag, "data", "new"));
                break;
            default:
                File.Delete(file);
                File.CreateSymbolicLink(file, outside);
                break;
        }
        var before = DiskTree.Of(_session.Root);
        var undo = UndoPlanner.Plan(plan, _journal.Records(plan));
        Assert.Equal(FaultCode.CopyChanged, _journal.TryApply(undo).Cause?.Code);
        Assert.Equal(before, DiskTree.Of(_session.Root));
    }

    /// <summary>Refused, cancelled or cut off anywhere, by whatever call: nothing half-made stays, and what stands there of others does.</summary>
    [Theory]
    [InlineData(BundleForm.Folder)]
    [InlineData(BundleForm.Parts)]
    public void NothingHalfMadeStays(BundleForm form)
    {
        var plan = Plan(form);
        var counting = new FaultyFiles();
        new MemoryJournal().TryApply(plan, files: counting);
        Assert.True(counting.Calls.Count > 40);
        DiskTree.Clear(_session.Outbox);
        File.WriteAllText(Path.Combine(_session.Outbox, "somebody's.txt"), "mine");
        var before = DiskTree.Of(_session.Root).Keys;
        var random = new Random(5);
        for (var n = 0; n < 25; n++)
        {
            var (refused, calls, files, journal, isKill) = (random.Next(counting.Calls.Count - 1), 0, new FaultyFiles(), new MemoryJournal(), n % 2 == 0);
            files.Before = (_, path) =>
            {
                // After a kill nothing works any more; a drive that is full refuses once, and gives what is freed.
                if (isKill ? calls++ >= refused : calls++ == refused)
                {
                    throw new FaultException(isKill ? FaultCode.RootGone : FaultCode.NoSpace, path);
                }
            };
            var result = journal.TryApply(plan with { Id = Guid.NewGuid() }, files: files);
            if (result.Outcome == PlanOutcome.Applied)
            {
                // Only its own mark was refused.
                journal.Recover();
                Directory.GetDirectories(_session.Outbox).ToList().ForEach(d => Directory.Delete(d, true));
            }
            else if (isKill)
            {
                journal.Recover();
            }
            Assert.Equal(before, DiskTree.Of(_session.Root).Keys);
        }
    }

    /// <summary>A drive that gives back something else than was written to it, beyond the first bytes of a part or in a file of a folder: no bundle comes of it.</summary>
    [Theory]
    [InlineData(BundleForm.Parts, ".zip.001", 80_000)]
    [InlineData(BundleForm.Folder, "Cello 07.wav", 5_000)]
    public void WhatIsReadBackOtherwiseIsNoBundle(BundleForm form, string name, long at)
    {
        var before = DiskTree.Of(_session.Root);
        var files = new FaultyFiles
        {
            OnRead = (path, offset, bytes) =>
            {
                if (path.StartsWith(_session.Outbox, StringComparison.Ordinal) && path.EndsWith(name, StringComparison.Ordinal) && offset <= at && at < offset + bytes.Length)
                {
                    bytes[at - offset] ^= 1;
                }
            },
        };
        Assert.Equal(FaultCode.ReadBackDiffers, _journal.TryApply(Plan(form), files: files).Cause?.Code);
        Assert.Equal(before.Keys, DiskTree.Of(_session.Root).Keys);
    }

    /// <summary>What reaches somebody is asked of each file that is handed over, and not of all together.</summary>
    [Fact]
    public void WhatReachesThemIsAskedOfEachFile()
    {
        var request = new BundleRequest(_session.SessionId, _session.Inventory(), _session.Shelves, [_session.Folder], _session.Outbox, BundleParts.Standard, "Idris Falk", null, Now)
        {
            For = new Recipient("Idris Falk", RecipientWork.Mix, true, false, RecipientSystem.Any, 150_000, []),
            PartBytes = PartBytes,
        };
        bool IsTooLarge(BundleRequest r) => BundlePlanner.Plan(r).Remarks.Any(f => f.Code == FaultCode.BundleTooLargeToSend);
        Assert.Equal(
            [true, false, false, true],
            new[] { request, request with { Form = BundleForm.Parts }, request with { Form = BundleForm.Folder }, request with { Form = BundleForm.Parts, PartBytes = 200_000 } }.Select(IsTooLarge));
    }

    [Fact]
    public void PartsMakeSense()
    {
        Assert.Equal(FaultCode.PartsTooSmall, Assert.Single(Plan(BundleForm.Parts, 99_999).Refusals).Code);
        var many = Assert.IsType<PackBundleFolderStep>(Plan(BundleForm.Parts).Steps[0]) with { PartBytes = 500 };
        Assert.Contains(new Runner(_journal, new DurableFiles()).Refusals(Plan(BundleForm.Parts) with { Steps = [many] }), r => r.Code == FaultCode.TooManyParts);
        // What bears the name already stays.
        var name = Path.GetFileName(Plan(BundleForm.Folder).Steps[0].Destination);
        Directory.CreateDirectory(Path.Combine(_session.Outbox, name));
        Assert.NotEqual(name, Path.GetFileName(Plan(BundleForm.Folder).Steps[0].Destination));
    }

    [GeneratedRegex("""\.\d\d\d: FAILED""")]
    private static partial Regex Damaged();

    [GeneratedRegex("  cat .*")]
    private static partial Regex Joined();
}
