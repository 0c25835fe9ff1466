using NeatCrate.Testing;
using OpenQA.Selenium;

namespace NeatCrate.Browser.Tests;

/// <summary>A session leaves for somebody: what they need, what they lack, what it weighs, and what arrives.</summary>
public sealed class BundleStoryTests : IDisposable
{
    private readonly Browser _browser = new();

    public void Dispose() => _browser.Dispose();

    private string Sums => _browser.Find(".bundles-total").Text;

    /// <summary>For the mixing engineer: what he needs is ticked, what he lacks and what does not reach him is said, and goes once it is mended; printed tracks arrive whole.</summary>
    [Fact]
    public void LowWaterGoesToIdris()
    {
        var folder = Directory.GetDirectories(_browser.Shelf("Session drive"), "*Low Water", SearchOption.AllDirectories).First();
        // Outlines are drawn while it is looked at.
        Dictionary<string, string> Session() => Tree.Of(folder).Where(f => !f.Key.StartsWith(".waveforms/", StringComparison.Ordinal)).ToDictionary();
        var before = Session();
        _browser.Open(_browser.SessionOf("Low Water") + "/bundle");
        _browser.See("What is played, and the document", ".bundles-parts");
        _browser.ChooseFor("For", "Idris Falk");
        _browser.See("mixes, takes at most 25.0 MB");
        // Older versions stay, the rough mix goes.
        _browser.See("Bounces", ".bundles-parts li:not(.bundles-stays)");
        _browser.See("Older versions", ".bundles-parts .bundles-stays");
        _browser.See("does not have Stairwell echo", ".plans-tray");

        _browser.Tick("Printed tracks");
        _browser.See("4 tracks printed", ".plans-tray");
        _browser.See("Voice (without its effect 'Stairwell echo')", ".plans-tray");
        _browser.See("what reaches Idris Falk is at most 25.0 MB", ".plans-tray");
        Assert.Contains("13 files", Sums.Replace('\n', ' '), StringComparison.Ordinal);

        // He has got the echo by now, and a way for larger files.
        _browser.Click("Change", ".bundles-recipient");
        _browser.Field("Instruments and effects they have").SendKeys("Stairwell echo" + Keys.Enter);
        _browser.ChooseFor("Largest file that reaches them", "2 GB, by transfer");
        _browser.Click("Keep what is known");
        _browser.See("takes at most 2.00 GB, has Stairwell echo");
        // Keeping it chooses what he needs anew.
        _browser.SeeNoMore("tracks printed", ".plans-tray");
        _browser.SeeNoMore("Idris Falk", ".plans-tray");
        _browser.Tick("Printed tracks");
        _browser.See("4 tracks printed", ".plans-tray");
        _browser.Field("Note on the packing slip").SendKeys("Mix as you like.");
        _browser.Click("Pack the bundle");
        _browser.See("Done.", ".plans-tray");

        var bundle = Assert.Single(Directory.GetFiles(_browser.Shelf("Outbox")));
        Assert.Contains("No errors detected", Tool.Run("unzip", "-t", bundle), StringComparison.Ordinal);
        var received = _browser.Scratch("received");
        Tool.Run("unzip", "-q", bundle, "-d", received);
        var bag = Assert.Single(Directory.GetDirectories(received));
        Tool.RunIn(bag, "sha512sum", "--strict", "--quiet", "-c", "manifest-sha512.txt");
        var printed = Path.Combine(bag, "data", "Printed tracks");
        Assert.Equal(["01 Hurdy-gurdy.wav", "02 Cello.wav", "03 Frame drum.wav", "04 Voice (without effects).wav"], Directory.GetFiles(printed, "*.wav").Select(Path.GetFileName).Order(StringComparer.Ordinal));
        Assert.Single(Directory.GetFiles(printed, "*.wav").Select(f => Tool.Run("soxi", "-s", f)).Distinct());
        Assert.Contains("0:00:14.500  Lamps", File.ReadAllText(Path.Combine(printed, "Read me first.txt")), StringComparison.Ordinal);
        Assert.Contains("Mix as you like.", File.ReadAllText(Path.Combine(bag, "packing-slip.html")), StringComparison.Ordinal);
        // The session is as it was.
        Assert.Equal(before, Session());
        Assert.Empty(_browser.Troubles());
    }

    /// <summary>
    /// What does not reach him is mended where it is said, in one press each: sound packed, parts that are small enough. As he finds it every track sounds,
    /// with no computer of ours; the parts are joined and the sound is brought back by tools that are not ours.
    /// </summary>
    [Fact]
    public void WhatDoesNotReachHimGoesPackedAndInParts()
    {
        _browser.Open(_browser.SessionOf("Low Water") + "/bundle");
        _browser.See("What is played, and the document", ".bundles-parts");
        _browser.ChooseFor("For", "Idris Falk");
        _browser.Tick("Printed tracks");
        var before = Sums;
        _browser.Click("Pack sound without loss", ".plans-tray");
        _browser.See("In all, about", ".bundles-total");
        _browser.See("what reaches Idris Falk is at most 25.0 MB", ".plans-tray");
        Assert.NotEqual(before, Sums);
        _browser.Click("Hand it over in parts of 25.0 MB", ".plans-tray");
        _browser.SeeNoMore("what reaches Idris Falk", ".plans-tray");
        _browser.Click("Idris Falk has it", ".plans-tray");
        _browser.SeeNoMore("does not have Stairwell echo", ".plans-tray");
        _browser.Click("Pack the bundle");
        _browser.See("Done.", ".plans-tray");

        _browser.Click("As they find it", ".plans-tray");
        _browser.See("As Idris Falk finds it", ".ant-modal");
        _browser.See("Every track sounds.", ".ant-modal");
        _browser.See("4 files handed over", ".ant-modal");

        var folder = Assert.Single(Directory.GetDirectories(_browser.Shelf("Outbox")));
        Assert.All(Directory.GetFiles(folder), f => Assert.InRange(new FileInfo(f).Length, 1, 25_000_000));
        Assert.DoesNotContain("FAILED", Tool.RunIn(folder, "sha512sum", "--strict", "-c", "Check sums.sha512"), StringComparison.Ordinal);
        var whole = Path.Combine(_browser.Scratch("received"), "whole.zip");
        Tool.RunIn(folder, "sh", "-c", $"cat *.zip.[0-9]* > '{whole}'");
        Assert.Contains("Everything is Ok", Tool.Run("7zz", "t", whole), StringComparison.Ordinal);
        Tool.Run("unzip", "-q", whole, "-d", Path.GetDirectoryName(whole)!);
        var bag = Assert.Single(Directory.GetDirectories(Path.GetDirectoryName(whole)!));
        Assert.DoesNotContain("FAILED", Tool.RunIn(bag, "sh", "bring-back-sound.sh"), StringComparison.Ordinal);
        Assert.Empty(_browser.Troubles());
    }

    /// <summary>Somebody new: what is standard goes; what is said of them is kept, and chosen for them from then on.</summary>
    [Fact]
    public void WhoeverIsNotKnownGetsWhatIsStandard()
    {
        _browser.Open(_browser.SessionOf("Low Water") + "/bundle");
        _browser.See("What is played, and the document", ".bundles-parts");
        _browser.Field("For").SendKeys("Halfmoon Ferry");
        _browser.See("Nothing is known of them yet.");
        _browser.See("Older versions", ".bundles-parts li:not(.bundles-stays)");
        // What stays is struck through, and what all of it weighs follows.
        var all = Sums;
        _browser.Tick("Older versions, and what only they need");
        _browser.See("Older versions", ".bundles-parts .bundles-stays");
        Assert.NotEqual(all, Sums);
        // Somebody of whom nothing is known becomes one of whom it is.
        _browser.Click("Say what they have");
        _browser.Pick("Listens");
        _browser.Click("Keep what is known");
        _browser.See("listens", ".bundles-known");
        _browser.See("Other files", ".bundles-parts .bundles-stays");
        _browser.ForgetTheTab();
        _browser.Open(_browser.SessionOf("Low Water") + "/bundle");
        _browser.ChooseFor("For", "Halfmoon Ferry");
        _browser.See("listens", ".bundles-known");
        Assert.Empty(_browser.Troubles());
    }
}
