using System.Collections.Immutable;
using System.Globalization;
using NeatCrate.App.Jobs;
using NeatCrate.Core.Media;
using NeatCrate.Core.Plans;
using NeatCrate.Core.Vault;
using NeatCrate.Core.Words;

namespace NeatCrate.App.Words;

/// <summary>Faults in sentences for the user: what went wrong, what is so now, and what to do. The one place where they are made.</summary>
public static class Sentences
{
    private const int MostNamed = 5;
    private const string SharedFolders = "Sessions that share a folder damage each other when one is cleaned.";

    /// <summary>One fault as a sentence.</summary>
    public static string Of(Fault fault)
    {
        ArgumentNullException.ThrowIfNull(fault);
        var (name, folder) = (NameOf(fault), FolderOf(fault));
        return fault.Code switch
        {
            FaultCode.Unexpected => $"Something went wrong inside Neat Crate: {Said(fault)}",
            FaultCode.NotThere => $"'{name}' is not there.",
            FaultCode.NameTaken => $"'{name}' is there already, in '{folder}'.",
            FaultCode.NoSpace => $"The drive is full: there is no room for '{name}'. Make room, then go on.",
            FaultCode.ReadOnlyDrive => $"The drive of '{name}' can only be read. Lift its write protection, or choose another place.",
            FaultCode.NotAllowed => $"This user may not open or change '{name}'. Change its permissions, or choose another place.",
            FaultCode.NotARegularFile => $"'{name}' is no file but a pipe, a device or a folder.",
            FaultCode.CannotRead => $"'{name}' cannot be read: {Said(fault)} The drive or its cable may be failing.",
            FaultCode.CannotWrite => $"'{name}' cannot be written: {Said(fault)} The drive or its cable may be failing.",
            FaultCode.ReadBackDiffers => $"What was read back from the drive is not what was written to it, in '{fault.Name ?? name}'. The drive or its cable may be failing.",
            FaultCode.TooLargeForDrive => $"'{name}' is larger than a file may be on that drive (4 GB on FAT32). Choose another drive.",
            FaultCode.FolderNotEmpty => $"The folder '{name}' stays, since something is in it.",
            FaultCode.RootGone => $"'{fault.Path}' cannot be reached. Connect its drive.",
            FaultCode.RootIsAnother => $"Another drive or folder stands at '{fault.Path}' than when the plan was made. Make the plan again.",
            FaultCode.PlaceLeadsElsewhere => $"'{fault.Path}' leads to '{fault.Other}' now, which it did not when the plan was made. Make the plan again.",
            FaultCode.NotAPlaceOfThePlan => $"'{fault.Path}' is not in a place that this plan may change.",
            FaultCode.SourceGone => $"'{name}' is no longer there, in '{folder}'.",
            FaultCode.SourceChanged => $"'{name}' has changed since the plan was made. Make the plan again.",
            FaultCode.SourceTooShort => $"'{name}' ends before the part that is needed of it.",
            FaultCode.SourceUnreadable => fault.Detail is not null ? $"'{name}' cannot be read: {Said(fault)}" : $"'{name}' cannot be read. {Of(fault.Reasons)}".TrimEnd(),
            FaultCode.SoundCutShort => $"'{name}' is damaged: {Number(fault.Count)} of its {Number(fault.Expected)} samples can be read. Nothing was made of it.",
            FaultCode.ArchiveEntryDamaged => $"'{fault.Name}' is damaged in '{name}'.",
            FaultCode.DocumentGone => $"The document '{name}' is no longer there.",
            FaultCode.DocumentChanged => $"The document '{name}' has changed since the plan was made. Make the plan again.",
            FaultCode.DocumentIsALink => $"The document '{name}' is a link to '{fault.Other}'. Work in the folder where it really stands.",
            FaultCode.DocumentSavedMeanwhile => $"Another program saved '{name}' at the same moment; that save stays as it is.",
            FaultCode.CopyGone => $"'{name}' is no longer there.",
            FaultCode.CopyChanged => $"'{name}' has changed since it was made.",
            FaultCode.OriginalGone => $"The original of '{name}' is no longer at '{fault.Other}'; the copy may be the only one left.",
            FaultCode.OriginalChanged => $"The original of '{name}', '{fault.Other}', is no longer what was copied; the copy may be the only one left.",
            FaultCode.StillUsed => $"'{name}' is needed by {List(fault.Names)}. It would be missing there.",
            FaultCode.NotEnoughSpace => $"There is not enough space: {ByteText.Of(fault.Bytes ?? 0)} are needed, {ByteText.Of(fault.Free ?? 0)} are free.",
            FaultCode.MoveToAnotherDrive => $"'{name}' would move to another drive, where a file can only be copied.",
            FaultCode.UndoOfUndo => "This was an undo itself. Make the plan again to do it once more.",
            FaultCode.CannotBeUndone => $"What was done to '{name}' cannot be undone.",
            FaultCode.PlanUnreadable => $"The record of this work cannot be read, so it was set apart: {fault.Name ?? "a plan of another version"}. Files that it was about were not touched again.",
            FaultCode.NotDecided => "Whether this went through is not known yet, because the database failed in that moment. It is found out at the next start; until then change nothing there.",
            FaultCode.TidyingLeft => "All of it was done. Tidying up after it was not, and is done at the next start.",
            FaultCode.LeftOut => LeftOut(fault),
            FaultCode.KeptForDocument => $"'{name}' stays in '{folder}', since the document that was saved meanwhile may point at it.",
            FaultCode.PutBackUnderOtherName => $"Another file has taken the name of '{name}'; it was put back beside it, with a number.",
            FaultCode.StillThere => $"'{fault.Path}' is still there.",
            FaultCode.NotBackInPlace => fault.Other is null ? $"'{fault.Path}' is not as it was before." : $"'{name}' is not back in its place; it stands at '{fault.Other}'.",
            FaultCode.DocumentNotJson => $"The document is damaged at line {Number(fault.Count)}: it is not valid JSON.",
            FaultCode.DocumentNotText => $"The document is damaged at line {Number(fault.Count)}: it holds bytes that are no text.",
            FaultCode.DocumentWithoutSchema => "The document is JSON, but not OpenTimelineIO: it names no schema.",
            FaultCode.DocumentNoTimeline => $"The document is OpenTimelineIO, but holds a {fault.Name} instead of a timeline.",
            FaultCode.DocumentCannotBeOpened => $"'{name}': {string.Join(' ', fault.Reasons.Select(Of))} Until it can be read, no file is called unused.",
            FaultCode.DocumentOfUnknownFormat => $"Documents of the kind {fault.Name} cannot be read here yet.",
            FaultCode.DocumentOfAnotherProgram => $"'{name}' is a document of another program: what it names is found here, and it is never changed.",
            FaultCode.NamesFound => $"{List(fault.Names)} {(fault.Names.Length == 1 ? "is" : "are")} of another program: {Number(fault.Count)} of the {ByteText.Count(fault.Number ?? 0, "media file")} here {(fault.Count == 1 ? "is" : "are")} named in {(fault.Names.Length == 1 ? "it" : "them")}. What is not may be used all the same.",
            FaultCode.TooFewNamesFound => $"{List(fault.Names)} {(fault.Names.Length == 1 ? "names" : "name")} {Number(fault.Count)} of the {ByteText.Count(fault.Number ?? 0, "media file")} in the folder: too few to say of any other that it is not used.",
            FaultCode.NamesNotAllFound => $"'{fault.Name}' is cut off, damaged, too large, or packed too deep, and could not be looked through to its end. It may name more, so no file is called unused.",
            FaultCode.NamedNowhereIsNotUnused => "Nothing is proposed here: a file that is named nowhere may be used all the same. Where at least 95 of 100 others are named, one can be set aside by hand.",
            FaultCode.MayBeUsedAllTheSame => $"'{fault.Name}' may be used all the same. Open the session in its program and listen; from “Set aside” it goes back to its place.",
            FaultCode.OneAtATime => $"What {List(fault.Names)} {(fault.Names.Length == 1 ? "names" : "name")} nowhere is set aside one file at a time, so that each is heard and the session opened after it.",
            FaultCode.OnlyWithABackup => $"{List(fault.Names)} may be used all the same, and no backup holds {(fault.Count == 1 ? "it" : "them")}. {(fault.Count == 1 ? "It is" : "They are")} deleted only once a full backup does.",
            FaultCode.NamesStayAsTheyAre => $"{List(fault.Names)} goes on naming {(fault.Count == 1 ? "the original" : $"the {Number(fault.Count)} originals")}. Tell {(fault.Names.Length == 1 ? "its program" : "their programs")} where the {(fault.Count == 1 ? "copy is" : "copies are")}; until then the session still depends on {(fault.Count == 1 ? "it" : "them")}.",
            FaultCode.CopiesAreInside => $"{(fault.Count == 1 ? "A copy of it is" : $"Copies of all {Number(fault.Count)} are")} in the session folder already.{(fault.Names.IsEmpty ? "" : $" {List(fault.Names)} goes on naming the {(fault.Count == 1 ? "original" : "originals")}: tell its program.")}",
            FaultCode.NamesAreNotRepointed => $"'{fault.Name}' is named by another program ({List(fault.Names)}), which is never changed. Put the file back to where it is named, or start a new version where the document is text.",
            FaultCode.DocumentIsNotText => $"'{name}' is not text, so what it names cannot be changed from here.",
            FaultCode.NameIsOpen => $"Which file '{name}' means by '{fault.Name}' is open, so that cannot be changed from here.",
            FaultCode.NameLeadsElsewhere => $"'{name}' names it as '{fault.Name}', and nothing tells how its program would write the new place.",
            FaultCode.NameCannotBeWritten => $"{List(fault.Names)} cannot be written in '{name}' in the way in which it writes names.",
            FaultCode.NameStatesItsLength => $"In '{name}' a number stands before '{fault.Name}' that may be its length, so that '{fault.Other}' cannot take its place.",
            FaultCode.NamesWouldDiffer => $"A new version of '{name}' was read again, and would not name exactly what it should. It is not made.",
            FaultCode.NewVersionIsNamedAnew => $"'{fault.Other}' is '{fault.Name}' with {ByteText.Count(fault.Count ?? 0, "name")} changed and all else as it is. Open it in its program and look before you work on in it; '{fault.Name}' stays.",
            FaultCode.StaysNamedIn => $"'{name}' goes on naming files where they were. {string.Join(' ', fault.Reasons.Select(Of))}",
            FaultCode.MayBeDocuments => $"{List(fault.Names)} {(fault.Names.Length == 1 ? "is" : "are")} of a kind that is not known here, and may point at sound. Beside {(fault.Names.Length == 1 ? "it" : "them")} no file is called unused.",
            FaultCode.PointsElsewhere => $"'{fault.Name}' points at more than can be followed here. Until it can be, no file beside it is called unused.",
            FaultCode.InstrumentNotRepointed => $"'{name}' writes the folder of its samples as a part of their names, so it cannot be pointed at them elsewhere. Leave it where it is.",
            FaultCode.InstrumentsMayBeSilent => $"{List(fault.Names)} {(fault.Count == 1 ? "goes along as it is" : "go along as they are")}, and may be silent there: {(fault.Count == 1 ? "it plays" : "they play")} what cannot be followed, or pointed at, from here.",
            FaultCode.InstrumentStays => $"'{fault.Name}' plays more than can be followed here, and a copy of it might be silent. It stays where it is.",
            FaultCode.SampleOfInstrument => $"This is a sample of {List(fault.Names)}, which is silent without it.",
            FaultCode.DocumentTooLarge => $"'{name}' has {ByteText.Of(fault.Bytes ?? 0)}, which is too much for a session document.",
            FaultCode.NoDocument => "There is no session document in the folder that can be read, so nothing tells which files are in use.",
            FaultCode.SessionCardInTheWay => $"'{fault.Path}', where the current version is stated, is no file of ours but something else. Move it out of the folder first.",
            FaultCode.SessionCardUnusable => $"'{fault.Path}', which should state the current version, cannot be used; the newest document by its date is taken. Making a version the current one writes it anew.",
            FaultCode.StatedDocumentGone => $"The current version should be '{fault.Name}', which is no longer in the folder. '{fault.Other}' is used instead.",
            FaultCode.NewerDocumentBeside => $"'{fault.Name}' was changed after the current version, '{fault.Other}'. If that is the one you work in, make it the current version.",
            FaultCode.UnfollowedReferences => $"{Number(fault.Count)} media references of the kind {fault.Name} are kept, but cannot be followed.",
            FaultCode.CannotBeLookedAt => $"'{name}' cannot be looked at: {Said(fault)}",
            FaultCode.FolderIsALink => $"The folder '{name}' is a link to '{fault.Other}'. What is in it stands outside the session.",
            FaultCode.LinkToNothing => $"'{name}' is a link to '{fault.Other}', which is not there.",
            FaultCode.NameNotText => $"{(fault.Path is null ? "Its name" : $"The name of '{name}'")} holds bytes that are no text, so it cannot be opened here. Rename it to have it looked after.",
            FaultCode.SessionFolderGone => $"The session folder '{name}' cannot be reached.",
            FaultCode.MediaUnreadable => fault.Detail ?? "The file cannot be read as sound.",
            FaultCode.MediaEmpty => "The file is empty.",
            FaultCode.MediaTooShort => $"The file is too short to be {AKind(fault)}.",
            FaultCode.MediaStartsOtherwise => $"The file does not hold what its name says: it does not start as {AKind(fault)} does.",
            FaultCode.MediaLacksPart => $"As {AKind(fault)}, it lacks the {fault.Other}, so nothing tells how to read it.",
            FaultCode.MediaFormatSenseless => $"As {AKind(fault)}, it gives no channels, no usable sample rate or an impossible depth.",
            FaultCode.MediaContradictsItself => $"Its format contradicts itself: {Number(fault.Count)} channels of {Number(fault.Expected)} bits do not make {Number(fault.Bytes)} bytes a sample.",
            FaultCode.MediaOfUnknownCoding => $"Its sound is coded in a way that is not known here ({fault.Name}).",
            FaultCode.MediaShorterThanHeader => "The file ends before its sound.",
            FaultCode.ChunksPassedOver => $"Only the first {Number(fault.Count)} chunks were read.",
            FaultCode.BytesAfterChunks => "There are bytes after the last chunk that belong to no chunk.",
            FaultCode.ChunkCutShort => $"The chunk '{fault.Name}' is cut off by the end of the file.",
            FaultCode.SizesNeverWritten => "The size of the audio data was never written; the recording was cut off.",
            FaultCode.SoundEndsEarly => "The audio data ends before the size that the header gives.",
            FaultCode.EndsInMidSample => "The audio data ends in the middle of a sample.",
            FaultCode.SamplesDisagree => $"The header gives {Number(fault.Expected)} samples, and {Number(fault.Count)} are there.",
            FaultCode.PacketsDisagree => $"The header gives {Number(fault.Expected)} packets of sound, and {Number(fault.Count)} are there.",
            FaultCode.PadByteMissing => "A chunk of odd length has no pad byte after it.",
            FaultCode.BroadcastChunkTooShort => "The Broadcast Wave chunk is too short to be read.",
            FaultCode.IxmlUnreadable => "The iXML chunk cannot be read.",
            FaultCode.BytesBetweenFrames => "There are bytes between the frames that belong to none.",
            FaultCode.StreamEndNotFound => "The end of the stream was not found, so its length is not known.",
            FaultCode.StreamLengthAbsurd => "The end of the stream gives a length that its bytes cannot hold, so it is not known.",
            FaultCode.StreamsChained => "Several streams stand one after the other that do not belong together, so the length of all is not known.",
            FaultCode.WrittenOtherwise => $"It is there, written otherwise: '{fault.Name}'.",
            FaultCode.BehindALink => $"This stands at {fault.Other}, behind a link.",
            FaultCode.SoundNotDecoded => $"The sound cannot be decoded: {Said(fault)}",
            FaultCode.SoundNotConverted => $"The sound cannot be converted: {Said(fault)}",
            FaultCode.RateNotConvertible => $"Sound at {RateText.Of(fault.Count ?? 0)} cannot be converted to {RateText.Of(fault.Expected ?? 0)}.",
            FaultCode.LibraryMissing => $"This needs {fault.Name}, which is not installed (Debian's package {fault.Other}).",
            FaultCode.OnlyWavIsRepaired => $"Only WAV recordings can be repaired, and this is {fault.Name}.",
            FaultCode.EncodedSoundHasNoEnd => "Its sound is encoded, so nothing tells where it ends.",
            FaultCode.NoSoundWritten => "No sound had been written yet.",
            FaultCode.PathNotRelative => "A path on a shelf starts at the shelf's top folder.",
            FaultCode.PathLeavesShelf => $"The path leads out of the shelf '{fault.Name}'.",
            FaultCode.LinkLeavesShelf => $"A link in the path leads out of the shelf '{fault.Name}'.",
            FaultCode.LinksInCircle => "The links in the path go round in a circle.",
            FaultCode.ShelfAway => fault.Path is null ? $"The shelf '{fault.Name}' is away. Connect it first." : $"'{name}' is on '{fault.Name}', which is away.",
            FaultCode.ShelfDoesNotAnswer => $"The drive of '{fault.Name}' does not answer. Its network or its cable may be down; it counts as away until it does.",
            FaultCode.NoSuchFolder => $"There is no folder '{fault.Path}'{(fault.Name is null ? "" : $" on the shelf '{fault.Name}'")}.",
            FaultCode.ScanLostShelf => $"'{fault.Path}' cannot be read{(fault.Reasons.IsEmpty ? ": it is no longer there." : ": " + Of(fault.Reasons[0]))} What was known of it is kept.",
            FaultCode.ScanFoundEmptyPlace => $"'{fault.Path}' is empty, and files were known on it: the drive may not be mounted. What was known of it is kept.",
            FaultCode.DataFolderInUse => $"Neat Crate is running with the data folder '{fault.Path}' already. Use that one, or start with --data and another folder.",
            FaultCode.DataFolderUnusable => $"'{fault.Path}' cannot be used as the data folder: {Said(fault)} Choose a folder that can be written, with --data.",
            FaultCode.DatabaseDamaged => $"The database '{fault.Path}' is damaged: {Said(fault)} No session is touched by that. Rename the file, and Neat Crate starts with a new one; sessions are adopted again from their folders.",
            FaultCode.DatabaseForeign => $"'{fault.Path}' is no database of Neat Crate. Rename that file, or start with --data and another folder.",
            FaultCode.DatabaseNewer => $"The database '{fault.Path}' was written by a later version of Neat Crate ({fault.Name}). Start that version, or use another folder with --data.",
            FaultCode.DatabaseFull => "The drive of Neat Crate's own data folder is full. Make room there, then try again.",
            FaultCode.DatabaseFails => $"Neat Crate's own database cannot be read or written now: {Said(fault)}",
            FaultCode.PortInUse => $"Another program answers on port {fault.Count} already. Start with --port and another number; 0 takes any free one.",
            FaultCode.NotKnown => $"This {fault.Name} is not known (any more).",
            FaultCode.NothingToDo => fault.Reasons.IsEmpty ? "There is nothing to do here." : string.Join(' ', fault.Reasons.Select(Of)),
            FaultCode.LookStopped => "The look at what uses what was stopped. What was read by then is known.",
            FaultCode.PlanningStopped => "Making the plan was stopped.",
            FaultCode.NothingOutside => "No chosen file stands outside the session folder.",
            FaultCode.CannotBeCut => $"'{name}' cannot be cut to a part of it.",
            FaultCode.CopyInsideSession => "The copy would stand inside the session's own folder. Choose a place outside, such as the Outbox.",
            FaultCode.VersionsStayBehind => $"{List(fault.Names)} {(fault.Names.Length == 1 ? "does" : "do")} not count by your choice, and {(fault.Names.Length == 1 ? "does" : "do")} not come along.",
            FaultCode.NothingToTrim => "There is nothing to trim: all of it is in use, or left whole.",
            FaultCode.LeftWholeLossy => $"{List(fault.Names)} {(fault.Names.Length == 1 ? "is" : "are")} left whole: that format cannot be cut to the sample.",
            FaultCode.LeftWholeUnknown => $"{List(fault.Names)} {(fault.Names.Length == 1 ? "is" : "are")} left whole: which parts are played is not known to the sample.",
            FaultCode.LeftWholeKeptSave => $"{List(fault.Names)} {(fault.Names.Length == 1 ? "is" : "are")} left whole: kept saves play {(fault.Names.Length == 1 ? "it" : "them")}, and are never pointed elsewhere.",
            FaultCode.SavesMiss => $"{(fault.Names.Length == 1 ? "The save" : "The saves")} of {List(fault.Names)} {(fault.Names.Length == 1 ? "does" : "do")} not count by your choice, and will miss {ByteText.Count(fault.Count ?? 0, "file")}.",
            FaultCode.VersionsBecomeSilent => $"{List(fault.Names)} {(fault.Names.Length == 1 ? "plays" : "play")} {ByteText.Count(fault.Count ?? 0, "file")} of these, and will be silent there for good.",
            FaultCode.LeftWholeShared => $"{List(fault.Names)} {(fault.Names.Length == 1 ? "is" : "are")} left whole: other sessions use {(fault.Names.Length == 1 ? "it" : "them")}.",
            FaultCode.NothingToSetAside => "Nothing is chosen that could be set aside.",
            FaultCode.UseCannotBeKnown when fault.Names.IsEmpty => "There is no document in the folder that can be read, so nobody can say what is in use. Nothing in this session is set aside until there is one.",
            FaultCode.UseCannotBeKnown => $"{List(fault.Names)} cannot be read, so nobody can say what {(fault.Names.Length == 1 ? "it uses" : "they use")}. Nothing in this session is set aside until {(fault.Names.Length == 1 ? "it" : "they")} can be, or {(fault.Names.Length == 1 ? "is" : "are")} moved out of the folder.",
            FaultCode.InUse => $"'{fault.Name}' is in use{(fault.Names.IsEmpty ? "" : $": {List(fault.Names)}")}. It stays.",
            FaultCode.BeingWritten => $"'{fault.Name}' is being written at this moment. It stays.",
            FaultCode.KeepersAmong => $"{(fault.Names.Length == 1 ? "A keeper is" : $"{fault.Names.Length} keepers are")} among them: {List(fault.Names)}.",
            FaultCode.RendersAmong => $"{(fault.Names.Length == 1 ? "A render is" : $"{fault.Names.Length} renders are")} among them: {List(fault.Names)}. For somebody without the instrument a render is the only sound of its track.",
            FaultCode.RendersNotAsked => $"Does the next person own the instruments? For somebody without them {List(fault.Names)} {(fault.Names.Length == 1 ? "is" : "are")} the only sound there is. Say that they own them, or leave {(fault.Names.Length == 1 ? "it" : "them")}.",
            FaultCode.MissedBy => $"{List(fault.Names)} {(fault.Names.Length == 1 ? "does" : "do")} not count by your choice, and will miss {ByteText.Count(fault.Count ?? 0, "file")}.",
            FaultCode.NothingToTakeOffList => "None of the chosen files stands on the session's list without being used.",
            FaultCode.NothingHeld => "Nothing that was chosen is set aside.",
            FaultCode.VaultBusy => $"Something else is writing in the vault '{fault.Path}' at this moment. It goes on once that is done.",
            FaultCode.UndoneMeanwhile => "Work that was cut off earlier in the same folders was dealt with only now, so that they are not as they were when this was planned. Make the plan again.",
            FaultCode.VaultLeadsElsewhere => $"'{fault.Path}' must be a folder or file of the vault itself, on the vault's own drive, and is a link or something else. Nothing is written or removed there. Put what belongs there back, or take away what leads elsewhere.",
            FaultCode.VaultOfOtherFormat => $"The vault '{fault.Path}' was made by another version of Neat Crate. Nothing in it was touched. Use that version, or another vault.",
            FaultCode.NoVault => $"The folder '{fault.Path}' holds '{fault.Name}' and is no vault. Nothing in it was touched. Give it another name, then a vault is made there.",
            FaultCode.VaultExchanged => $"Another vault stands in '{fault.Path}' by now: its drive was changed meanwhile.",
            FaultCode.ManifestMissing => $"The list of the backup '{name}' is gone from the vault, and nobody deleted it. Check the vault: it is put back from what is remembered of it.",
            FaultCode.ManifestDamaged => $"The list of the backup '{name}' is damaged: {Said(fault)} Check the vault; a copy elsewhere can mend it.",
            FaultCode.ManifestOfLaterVersion => $"The backup '{name}' was made by a later version of Neat Crate.",
            FaultCode.BackupContentDamaged => $"The backup of '{fault.Name}' is damaged, in '{folder}'. Check the vault; a copy elsewhere can mend it.",
            FaultCode.BackupContentMissing => $"The backup of '{fault.Name}' is no longer in the vault, where '{name}' should be in '{folder}'.",
            FaultCode.VersionGone => $"The version '{fault.Name}' is no longer there, or its drive is away.",
            FaultCode.TrackNotInVersion => $"The version has no track '{fault.Name}'.",
            FaultCode.NotInTheVersion => $"The version does not hold {List(fault.Names)}.",
            FaultCode.ThereAlready => $"{List(fault.Names)} {(fault.Names.Length == 1 ? "is" : "are")} there already, as in the version, and {(fault.Names.Length == 1 ? "stays" : "stay")} as {(fault.Names.Length == 1 ? "it is" : "they are")}.",
            FaultCode.ComesBackBeside => $"Another '{fault.Name}' has that place, so it comes back beside it as '{fault.Other}'.",
            FaultCode.VersionIsSilent => $"The version points at {List(fault.Names)}, which {(fault.Names.Length == 1 ? "is" : "are")} not there now. Relink may find {(fault.Names.Length == 1 ? "it" : "them")}.",
            FaultCode.CurrentStays => $"'{fault.Name}' stays the current document.",
            FaultCode.PlaceNotEmpty => $"The folder '{fault.Path}' is not empty. A session comes back into an empty place, so that nothing is mixed.",
            FaultCode.RestoreIntoVault => $"The place lies in the vault '{fault.Path}', which holds backups alone. Choose one outside of it.",
            FaultCode.RestoreIntoSession => $"The place lies in the session '{fault.Path}'. Choose one outside of it.",
            FaultCode.BackupLeftOut => $"The backup was made without {List(fault.Names)}, which could not be had then.",
            FaultCode.NotCompared => $"{ByteText.Count(fault.Names.Length, "file")} {(fault.Names.Length == 1 ? "is" : "are")} not certain, and nobody compared {(fault.Names.Length == 1 ? "it" : "them")}: {List(fault.Names)}.",
            FaultCode.PointsAtWhatCameBack => $"{ByteText.Count(fault.Count ?? 0, "file")} that stood outside {(fault.Count == 1 ? "is" : "are")} no longer there as {(fault.Count == 1 ? "it was: it comes" : "they were: they come")} back in '{BackupManifest.OutsideFolder}', and {List(fault.Names)} {(fault.Names.Length == 1 ? "points" : "point")} there.",
            FaultCode.TracksNotTaken => $"No track can be put into the document '{fault.Name}'.",
            FaultCode.HoldingListUnusable => $"The list of what is set aside, '{fault.Path}', cannot be used: {Said(fault)} Nothing counts as set aside until it can; the files are where they are.",
            FaultCode.HeldFileGone => $"'{fault.Name}' is no longer where it was set aside.",
            FaultCode.ComesBackAs => $"The place of '{fault.Name}' is taken by another file, which stays. It comes back beside it, as '{fault.Other}'.",
            FaultCode.NotListedAgain => $"'{fault.Name}', which listed what comes back, is not there or cannot be read. The files come back, and stand on no list of it.",
            FaultCode.NoBackupHolds => $"No backup holds {(fault.Count == 1 ? "one of them" : $"{Number(fault.Count)} of them")}, {ByteText.Of(fault.Bytes ?? 0)}: {List(fault.Names)}. Backups on drives that are away do not count.",
            FaultCode.NothingIsMissing => "Nothing is missing.",
            FaultCode.MatchesToCompare => fault.Number is > 0 and var compare
                ? $"{ByteText.Count(fault.Count ?? 0, "file")} {(fault.Count == 1 ? "is" : "are")} missing; {(compare == fault.Count ? compare == 1 ? "it has" : "each has" : $"{Number(compare)} of them {(compare == 1 ? "has" : "have")}")} a match that somebody must compare."
                : $"{ByteText.Count(fault.Count ?? 0, "file")} {(fault.Count == 1 ? "is" : "are")} missing, and nothing was found that may be {(fault.Count == 1 ? "it" : "one of them")}.",
            FaultCode.NothingToRelink => "Nothing is chosen. Choose what takes the place of a missing file.",
            FaultCode.KeptCannotBePointedAt => $"No document can point at '{name}' in {fault.Other}. Put it back, or copy it in.",
            FaultCode.NoPlaceToPutBack => $"'{name}' cannot be put back: the document means a place that is not on a connected drive of this machine. Copy it in instead.",
            FaultCode.NoTakeWaits => "No take waits to be added to the session.",
            FaultCode.NothingCutOff => "No recording was cut off.",
            FaultCode.NothingChosen => "No file was chosen.",
            FaultCode.NameUnusable => (fault.Reasons.IsEmpty ? $"The name '{fault.Name}' cannot be used." : Of(fault.Reasons)) + Instead(fault),
            FaultCode.NameEmpty => "The name is empty.",
            FaultCode.NameIsADot => "The name stands for a folder that is there already.",
            FaultCode.NameHoldsRefused => NotOnWindows(fault.Name ?? ""),
            FaultCode.NameHoldsInvisible => "The name holds a character that cannot be seen.",
            FaultCode.NameEndsInDotOrSpace => "Windows drops a dot or a space at the end of a name.",
            FaultCode.NameIsADevice => $"Windows keeps the name {fault.Name} for itself.",
            FaultCode.NameTooLong => $"The name is longer than {Number(fault.Expected)} bytes.",
            FaultCode.NameTooLongForDocument => "The name is too long for the document that is named after it.",
            FaultCode.NameThereAlready => $"There is a '{fault.Name}' in this place already.",
            FaultCode.NameClashes => $"'{fault.Name}' is in this place already, and other systems take the two names for one.",
            FaultCode.SessionOfThisName => $"There is a session of this name already, in '{folder}'." + Instead(fault),
            FaultCode.PathsTooLong => $"Paths in this session reach about {Number(fault.Count)} characters on the other systems, and Windows takes {Number(fault.Expected)}." + Instead(fault),
            FaultCode.NotMedia => $"'{fault.Name}' is no media file that is known here: neither audio, video, MIDI nor a sample-instrument.",
            FaultCode.SeveralTimelines => "The document holds several timelines, so nothing tells which one is meant.",
            FaultCode.NoSuchTrack => $"There is no track '{fault.Name}' in the document.",
            FaultCode.TrackHoldsNoClips => $"The track '{fault.Name}' cannot hold clips.",
            FaultCode.TrackLengthUnknown => $"The track '{fault.Name}' holds something whose length is not known, so nothing tells what plays when. Choose another track.",
            FaultCode.TrackOccupied => $"{(string.IsNullOrEmpty(fault.Other) ? "Something" : $"'{fault.Other}'")} plays on '{fault.Name}' from {DurationText.OfTenths(fault.Seconds ?? 0)} to "
                + $"{DurationText.OfTenths(fault.UntilSeconds ?? 0)}. Choose another time or another track.",
            FaultCode.GapTooShort => $"The gap on '{fault.Name}' is too short. Choose another time or another track.",
            FaultCode.LengthUnknown => $"The length of '{fault.Name}' is not known, so it cannot be placed on a track. Add it to the session without a track.",
            FaultCode.ClipInTransition => $"A transition plays on '{fault.Other}' on '{fault.Name}', so it cannot be taken off without changing what plays beside it.",
            FaultCode.ClipInStack => $"'{name}' plays in a stack within the timeline. It is moved in the program that made that stack.",
            FaultCode.TakeWithoutTime => $"'{name}' tells no time of its own. Give the time that it is to be placed at.",
            FaultCode.TakeWithoutTrack => $"No track fits '{name}'. Choose the one that it is to be placed on.",
            FaultCode.TakeBeforeStart => $"'{name}' begins before the session does, by its time. Give the time that it is to be placed at.",
            FaultCode.NoTake => $"'{name}' is no take of this session.",
            FaultCode.TakeLogUnchanged => "The take log says so already.",
            FaultCode.BundleInsideSession => fault.Other is null
                ? $"The bundle would stand inside the session '{name}'. Choose a place outside, such as the Outbox."
                : "The bundle would stand inside the session's own folder, and the next bundle would hold this one. Choose a place outside, such as the Outbox.",
            FaultCode.StillGrowing => $"'{name}' is still growing: something records into it.",
            FaultCode.CannotBeRepaired => $"'{name}' cannot be repaired. {Of(fault.Reasons)}".TrimEnd(),
            FaultCode.SameSettings => "These are the session's settings already.",
            FaultCode.OnlyOneSession => "Only one session stands in this folder.",
            FaultCode.DocumentThereAlready => $"It is there already, as '{fault.Name}', the same byte for byte. This one is only a copy.",
            FaultCode.NothingMissingOnMirror => "No take is missing on the mirror.",
            FaultCode.SubfolderUnusable => $"The sub-folder '{fault.Name}' cannot be made. {Of(fault.Reasons)}".TrimEnd(),
            FaultCode.SubfoldersClash => fault.Names.Length == 1
                ? $"The sub-folder '{fault.Names[0]}' stands in the tree twice."
                : $"The sub-folders {List(fault.Names)} are one and the same on other systems.",
            FaultCode.FolderNotShown => $"No program of this machine shows folders. It is '{fault.Path}'.",
            FaultCode.RequestSenseless => fault.Detail ?? "The request makes no sense.",
            FaultCode.RecorderBusy => $"The recorder runs already, in '{fault.Name}'. Stop it first.",
            FaultCode.RecorderElsewhere => "The recorder does not run in this session.",
            FaultCode.UploadCutShort => $"'{fault.Name}' did not arrive whole: {ByteText.Of(fault.Bytes ?? 0)} of {ByteText.Of(fault.Expected ?? 0)}. Drop it once more.",
            FaultCode.FoundAtOtherRate => $"'{fault.Name}' was at {RateText.Of(fault.Expected ?? 0)}, what was found is at {RateText.Of(fault.Count ?? 0)}: it plays {Varied(fault)}.",
            FaultCode.FoundIsShorter => $"What was found for '{fault.Name}' is {DurationText.Of(fault.Seconds ?? 0)} long; clips play {DurationText.Of(fault.UntilSeconds ?? 0)} of it. They end in silence.",
            FaultCode.RateDiffers => $"'{fault.Name}' is at {RateText.Of(fault.Count ?? 0)}, the session at {RateText.Of(fault.Expected ?? 0)}: read at the session's rate it plays {Varied(fault)}. {Of(fault.Reasons)}".TrimEnd(),
            FaultCode.RateOfFilesDiffers => $"{ByteText.Count(fault.Number ?? 0, "file")} will be at another rate than the session. Read at {RateText.Of(fault.Expected ?? 0)}, sound at {RateText.Of(fault.Count ?? 0)} plays {Varied(fault)}.",
            FaultCode.TakenAsItIs => "It is taken as it is.",
            FaultCode.NotConvertedLengthUnknown => "Its length is not known, so it is not converted.",
            FaultCode.ComesInAs => $"'{fault.Name}' comes in as '{fault.Other}': {(fault.Reasons.IsEmpty ? "another file has its name." : "its own name is not accepted everywhere. " + Of(fault.Reasons))}",
            FaultCode.SameSoundInside => $"'{fault.Name}' holds the same sound as '{fault.Other}', which is inside; only the texts in the two differ. Both are kept.",
            FaultCode.SameFileInside => $"'{fault.Name}' is inside already, as '{fault.Other}'. That one is used.",
            FaultCode.OlderDocumentStays => $"'{fault.Name}' cannot be read, so what it points at is not known, and it stays as it is.",
            FaultCode.NoSoundToRead => $"'{fault.Name}' cannot be read as sound, and is taken as it is. {Of(fault.Reasons)}".TrimEnd(),
            FaultCode.StaysOutside => $"'{fault.Name}' stays outside, on {(fault.Other is null ? "no shelf" : $"'{fault.Other}'")}: when that leaves, the session is silent there.",
            FaultCode.TrackAdded => $"The track '{fault.Name}' is new to this session; it is added.",
            FaultCode.NoTrackFits => $"No track of this session fits '{fault.Name}', by its name or by what is in it. It is listed without a track.",
            FaultCode.TakeGone => $"'{name}' is no longer in the session, so it cannot be mirrored.",
            FaultCode.CannotBePacked => $"{List(fault.Names)} cannot be opened, and {Do(fault)} not go along.",
            FaultCode.LinkedFoldersStay => $"{List(fault.Names)} {(fault.Names.Length == 1 ? "is a folder that is a link" : "are folders that are links")}, and {Do(fault)} not go along as such. What the document points at behind one goes along.",
            FaultCode.LinksToNothingStay => $"{List(fault.Names)} {(fault.Names.Length == 1 ? "is a link that leads" : "are links that lead")} to nothing, and {Do(fault)} not go along.",
            FaultCode.NoFilesStay => $"{List(fault.Names)} {(fault.Names.Length == 1 ? "is no file but a pipe, a socket or a device" : "are no files but pipes, sockets or devices")}, and {Do(fault)} not go along.",
            FaultCode.DocumentLacksPart => $"'{fault.Name}' is a file of the kind {fault.Other}, in which that cannot be changed.",
            FaultCode.CacheFolderInUse => $"The document names '{fault.Name}' as the folder for waveform caches, and other things of the session are kept there. It counts as none: nothing in it is taken for a cache.",
            FaultCode.StillOutside => $"{List(fault.Names)} {(fault.Names.Length == 1 ? "is" : "are")} still where {(fault.Names.Length == 1 ? "it" : "they")} stood outside, as the backup has {(fault.Names.Length == 1 ? "it" : "them")}: documents go on pointing there, and nothing is brought twice.",
            FaultCode.AnotherStandsOutside => $"Where {List(fault.Names)} stood outside, {(fault.Names.Length == 1 ? "another file stands" : "other files stand")} now. {(fault.Names.Length == 1 ? "It comes" : "They come")} back from the backup, and documents point at that.",
            FaultCode.OutsideNotThere => $"{List(fault.Names)} outside {(fault.Names.Length == 1 ? "is" : "are")} not there now, and the backup does not hold {(fault.Names.Length == 1 ? "it" : "them")}. Relink may find {(fault.Names.Length == 1 ? "it" : "them")}.",
            FaultCode.SilentInBundle => $"{ByteText.Count(fault.Names.Length, "file")} cannot be included and will be silent for the recipient: {string.Join(", ", fault.Names)}.",
            FaultCode.MovedInBundle => $"{ByteText.Count(fault.Count ?? 0, "file")} {((fault.Count ?? 0) == 1 ? "gets" : "get")} another place or name in the bundle; its document points there.",
            FaultCode.BundlePathTooLong => $"A path in the bundle has {Number(fault.Count)} characters; Windows takes {Number(fault.Expected)}, the folder that it is unpacked to included.",
            FaultCode.BundleUseUnknown => "The session's document cannot be read, so nothing tells whether everything it needs is inside. The folder is packed whole.",
            FaultCode.BundleTooLargeToSend => $"The bundle is up to {ByteText.Of(fault.Bytes ?? 0)}, and what reaches {fault.Name} is at most {ByteText.Of(fault.Free ?? 0)}. Leave something out, or hand it over in another way.",
            FaultCode.RecipientCannotRead => $"{fault.Name} has no program that reads the document. With printed tracks it can be worked on all the same.",
            FaultCode.RecipientLacks => $"{fault.Name} does not have {string.Join(", ", fault.Names)}: the tracks sound without {(fault.Names.Length == 1 ? "it" : "them")} there.",
            FaultCode.NothingToPrint => "No track can be printed: no document tells what is placed where.",
            FaultCode.TracksNotPrinted => $"{ByteText.Count(fault.Names.Length, "track")} cannot be printed as {(fault.Names.Length == 1 ? "it sounds, and is" : "they sound, and are")} not: {string.Join(", ", fault.Names)}.",
            FaultCode.TracksPrintedOtherwise => $"{ByteText.Count(fault.Names.Length, "track")} {(fault.Names.Length == 1 ? "does" : "do")} not sound in print as in the session: {string.Join(", ", fault.Names)}.",
            FaultCode.NotPackedWithoutLoss => $"'{name}' does not come back bit for bit once it is packed, so nothing was. Pack the bundle with sound as it is.",
            FaultCode.PackingNeedsDocument => $"Sound goes as it is: '{fault.Name}' cannot be pointed at packed files.",
            FaultCode.KeptSavesPointAtUnpacked => "Kept saves point at sound as it was before it was packed: it has to be brought back before one of them is opened. The packing slip says how.",
            FaultCode.TooManyParts => $"In parts of {ByteText.Of(fault.Bytes ?? 0)} there would be more than {Number(fault.Expected)} of them. Choose larger ones.",
            FaultCode.PartsTooSmall => $"A part has at least {ByteText.Of(fault.Bytes ?? 0)}.",
            FaultCode.VersionPointsOutside => $"{(fault.Names.Length == 1 ? "One file stands" : $"{fault.Names.Length} files stand")} outside the session, and the new version points there too: {List(fault.Names)}.",
            FaultCode.ParentHoldsSession => $"'{name}' holds a session already, and the new folder would stand inside it. " + SharedFolders,
            FaultCode.ParentInSession => $"The new folder would stand inside the session '{name}'. " + SharedFolders,
            FaultCode.DriveCanLeave => $"'{fault.Name}' is a removable drive: the session is away whenever the drive is.",
            FaultCode.DriveNearlyFull => $"The drive is nearly full: {ByteText.Of(fault.Free ?? 0)} are free, and {Number(fault.Count)} passes of all tracks take {ByteText.Of(fault.Bytes ?? 0)}.",
            FaultCode.IdleMediaStays => $"{ByteText.Count(fault.Count ?? 0, "media file")} that no document uses {((fault.Count ?? 0) == 1 ? "stays" : "stay")} in '{fault.Name}'.",
            FaultCode.DocumentRenamed => $"Another document there is named '{fault.Name}', so this one becomes '{fault.Other}'.",
            _ => throw new ArgumentOutOfRangeException(nameof(fault), fault.Code, "There is no sentence for this code."),
        };
    }

    /// <summary>Several faults, a sentence each.</summary>
    public static string Of(IEnumerable<Fault> faults) => string.Join(' ', faults.Select(Of));

    /// <summary>What the database keeps of a fault: as <see cref="Fault.Write"/> has it, or a sentence of an earlier version.</summary>
    public static string? OfText(string? text) => text is null ? null : Fault.Read(text) is { } faults ? Of(faults) : text;

    /// <summary>How a plan ended, from what was looked at; null when it was applied whole and nothing is left to say.</summary>
    public static string? Of(Plan plan, PlanResult result)
    {
        ArgumentNullException.ThrowIfNull(plan);
        ArgumentNullException.ThrowIfNull(result);
        if (result.Outcome == PlanOutcome.Applied)
        {
            return result.Notes(plan) is { IsEmpty: false } notes ? Of(notes) : null;
        }
        var why = result.Cause is { } cause ? Of(cause) + " " : result.Outcome == PlanOutcome.Cancelled ? "Cancelled. " : "";
        return result switch
        {
            { IsAsBefore: true } => why + "Everything is as it was before.",
            { IsOpen: true, Cause.Code: FaultCode.NotDecided } => why.TrimEnd(),
            { IsOpen: true } => $"{why}Not everything could be undone yet. {Of(result.Remains)} It is tried again before the next change, and at the next start.",
            _ => $"{why}Everything else is as it was before, but: {Of(result.Remains)}",
        };
    }

    private static string LeftOut(Fault fault)
    {
        var (isIn, all) = (fault.Count ?? 0, fault.Expected ?? 0);
        var left = all - isIn;
        var more = fault.Reasons.Length > MostNamed ? $" And {fault.Reasons.Length - MostNamed} more." : "";
        return $"{isIn} of {ByteText.Count((int)all, "file")} are in, and the document points at them. "
            + $"{(left == 1 ? "One still stands" : $"{left} still stand")} where {(left == 1 ? "it" : "they")} stood; plan again to go on from here. "
            + Of(fault.Reasons.Take(MostNamed)) + more;
    }

    private static string NameOf(Fault fault) => Path.GetFileName(fault.Path ?? "") is { Length: > 0 } name ? name : fault.Path ?? fault.Name ?? "it";

    private static string FolderOf(Fault fault) => Path.GetDirectoryName(fault.Path ?? "") ?? "";

    private static string Said(Fault fault)
    {
        var text = (fault.Detail ?? (fault.Reasons.IsEmpty ? "no reason was given" : Of(fault.Reasons))).Trim();
        return text.EndsWith('.') ? text : text + ".";
    }

    /// <summary>How sound at one rate plays at another, as "1.47 semitones sharp (8.8 % fast)".</summary>
    private static string Varied(Fault fault)
    {
        var (own, readAt) = ((int)Math.Max(1, fault.Count ?? 1), (int)Math.Max(1, fault.Expected ?? 1));
        var (speed, semitones) = (Varispeed.Speed(own, readAt), Varispeed.Semitones(own, readAt));
        return speed > 1
            ? string.Create(CultureInfo.InvariantCulture, $"{semitones:0.00} semitones sharp ({100 * (speed - 1):0.0} % fast)")
            : string.Create(CultureInfo.InvariantCulture, $"{-semitones:0.00} semitones flat ({100 * (1 - speed):0.0} % slow)");
    }

    /// <summary>Characters, each with a space between, that Windows does not have in names.</summary>
    private static string NotOnWindows(string characters)
    {
        ImmutableArray<string> each = [.. characters.Split(' ', StringSplitOptions.RemoveEmptyEntries)];
        return $"{List(each)} {(each.Length == 1 ? "is" : "are")} not allowed in names on Windows.";
    }

    private static string Instead(Fault fault) => fault.Other is null ? "" : $" '{fault.Other}' would do.";

    private static string AKind(Fault fault) => (fault.Name is { Length: > 0 } kind && "AEIOM".Contains(kind[0], StringComparison.Ordinal) ? "an " : "a ") + $"{fault.Name ?? "sound"} file";

    private static string Do(Fault fault) => fault.Names.Length == 1 ? "does" : "do";

    private static string Number(long? number) => (number ?? 0).ToString("N0", CultureInfo.InvariantCulture);

    public static string List(ImmutableArray<string> names)
    {
        var shown = names.Take(MostNamed).Select(n => $"'{n}'").ToList();
        var more = names.Length - shown.Count;
        return more > 0 ? $"{string.Join(", ", shown)} and {more} more"
            : shown.Count <= 1 ? string.Concat(shown)
            : $"{string.Join(", ", shown.SkipLast(1))} and {shown[^1]}";
    }
}
