namespace NeatCrate.Core.Faults;

/// <summary>
/// What can stand in the way, each by a name of its own. The facts that go with a code stand in a <see cref="Fault"/>; the
/// sentence for the user is made at the edge. Names are kept in the journal, so they are never used for something else.
/// </summary>
public enum FaultCode
{
    /// <summary>Something that nobody foresaw. Facts: Detail.</summary>
    Unexpected,

    // Files, as the durable layer meets them. Fact of all: Path.

    /// <summary>Nothing has this name.</summary>
    NotThere,

    /// <summary>Something has this name already.</summary>
    NameTaken,

    /// <summary>The drive is full. Facts: Bytes that were needed and Free, where they are known.</summary>
    NoSpace,

    /// <summary>The drive can only be read.</summary>
    ReadOnlyDrive,

    /// <summary>The system's rights do not allow it.</summary>
    NotAllowed,

    /// <summary>It is a pipe, a device or a folder, no file that holds bytes.</summary>
    NotARegularFile,

    /// <summary>The drive does not give what it holds. Facts: Detail.</summary>
    CannotRead,

    /// <summary>The drive does not take what it is given. Facts: Detail.</summary>
    CannotWrite,

    /// <summary>What was read back is not what was written.</summary>
    ReadBackDiffers,

    /// <summary>A file that the file system cannot hold: larger than it allows.</summary>
    TooLargeForDrive,

    /// <summary>The folder holds something, so it stays.</summary>
    FolderNotEmpty,

    // Plans that cannot be applied now.

    /// <summary>A folder of the plan cannot be reached. Facts: Path.</summary>
    RootGone,

    /// <summary>Another folder or drive stands where the plan was made for. Facts: Path.</summary>
    RootIsAnother,

    /// <summary>A destination leads somewhere else than when the plan was made. Facts: Path.</summary>
    PlaceLeadsElsewhere,

    /// <summary>A destination lies outside the folders that the plan may change. Facts: Path.</summary>
    NotAPlaceOfThePlan,

    /// <summary>A file that is to be read is no longer there. Facts: Path.</summary>
    SourceGone,

    /// <summary>A file that is to be read has changed since the plan was made. Facts: Path.</summary>
    SourceChanged,

    /// <summary>A file that is to be read ends before the part that is needed. Facts: Path.</summary>
    SourceTooShort,

    /// <summary>A file that is to be read cannot be read. Facts: Path, and Detail or the reason.</summary>
    SourceUnreadable,

    /// <summary>A sound that is to be converted ends, or is damaged, before its header says. Facts: Path, Count (samples that are there), Expected.</summary>
    SoundCutShort,

    /// <summary>An entry of an archive is not what its directory says. Facts: Path, Name.</summary>
    ArchiveEntryDamaged,

    /// <summary>The document is no longer there. Facts: Path.</summary>
    DocumentGone,

    /// <summary>The document was saved since the plan was made. Facts: Path.</summary>
    DocumentChanged,

    /// <summary>The document is a link to a file elsewhere. Facts: Path, Other.</summary>
    DocumentIsALink,

    /// <summary>Another program saved the document while the plan was applied. Facts: Path.</summary>
    DocumentSavedMeanwhile,

    /// <summary>A copy that is to be removed is no longer there. Facts: Path.</summary>
    CopyGone,

    /// <summary>A copy that is to be removed has changed since it was made. Facts: Path.</summary>
    CopyChanged,

    /// <summary>The original of a copy is gone, so the copy may be the only one left. Facts: Path, Other (the original).</summary>
    OriginalGone,

    /// <summary>The original of a copy is no longer what was copied. Facts: Path, Other (the original).</summary>
    OriginalChanged,

    /// <summary>A file that is to be removed is pointed at by a document that stays. Facts: Path, Names (session and document).</summary>
    StillUsed,

    /// <summary>There is not enough space. Facts: Bytes, Free.</summary>
    NotEnoughSpace,

    /// <summary>A move would lead to another drive, where a file can only be copied. Facts: Path.</summary>
    MoveToAnotherDrive,

    /// <summary>An undo cannot be undone.</summary>
    UndoOfUndo,

    /// <summary>A step has no inverse. Facts: Path.</summary>
    CannotBeUndone,

    /// <summary>The plan was written by another version, or is damaged. Facts: Detail.</summary>
    PlanUnreadable,

    /// <summary>Whether the plan went through is not known until the database can be read again.</summary>
    NotDecided,

    /// <summary>The plan went through; tidying up after it did not, and is done later. Facts: Detail.</summary>
    TidyingLeft,

    /// <summary>Some copies are not in; what is in is pointed at. Facts: Count (in), Expected (all), and the reasons.</summary>
    LeftOut,

    /// <summary>A file stays where the plan put it, since a document that was saved meanwhile points there. Facts: Path.</summary>
    KeptForDocument,

    /// <summary>A file that was set aside was put back under another name, since its own is taken. Facts: Path, Other (its own name).</summary>
    PutBackUnderOtherName,

    /// <summary>A file that the plan made could not be removed. Facts: Path.</summary>
    StillThere,

    /// <summary>A file is not back in its place. Facts: Path, Other (where it is).</summary>
    NotBackInPlace,

    // Media.

    /// <summary>A media file is damaged, not what its name says, or of a kind that is not read. Facts: Detail, which says what is wrong with it.</summary>
    MediaUnreadable,

    /// <summary>A media file holds nothing.</summary>
    MediaEmpty,

    /// <summary>A file is too short for its kind. Facts: Name (the kind).</summary>
    MediaTooShort,

    /// <summary>A file does not hold what its name says. Facts: Name (the kind).</summary>
    MediaStartsOtherwise,

    /// <summary>A file lacks a part without which nothing tells how to read it. Facts: Name (the kind), Other (the part).</summary>
    MediaLacksPart,

    /// <summary>A file gives no channels, no usable sample rate or an impossible depth. Facts: Name (the kind).</summary>
    MediaFormatSenseless,

    /// <summary>The format of a file contradicts itself. Facts: Count (channels), Expected (bits of each), Bytes (of a sample of all).</summary>
    MediaContradictsItself,

    /// <summary>The sound is coded in a way that is not known. Facts: Name (what holds it).</summary>
    MediaOfUnknownCoding,

    /// <summary>The file ends before its sound begins.</summary>
    MediaShorterThanHeader,

    /// <summary>A file has more chunks than are read. Facts: Count (of those that were).</summary>
    ChunksPassedOver,

    /// <summary>Bytes after the last chunk belong to none.</summary>
    BytesAfterChunks,

    /// <summary>A chunk is cut off by the end of the file. Facts: Name.</summary>
    ChunkCutShort,

    /// <summary>The sizes of a recording were never written: it was cut off.</summary>
    SizesNeverWritten,

    /// <summary>The sound ends before the size that the header gives.</summary>
    SoundEndsEarly,

    /// <summary>The sound ends in the middle of a sample.</summary>
    EndsInMidSample,

    /// <summary>Header and data disagree on the number of samples. Facts: Expected (by the header), Count (there).</summary>
    SamplesDisagree,

    /// <summary>Header and data disagree on the number of packets. Facts: Expected (by the header), Count (there).</summary>
    PacketsDisagree,

    /// <summary>A chunk of odd length has no pad byte.</summary>
    PadByteMissing,

    /// <summary>The bext chunk is too short.</summary>
    BroadcastChunkTooShort,

    /// <summary>The iXML chunk cannot be read.</summary>
    IxmlUnreadable,

    /// <summary>Bytes between MPEG frames belong to none.</summary>
    BytesBetweenFrames,

    /// <summary>The last page of an Ogg stream was not found, so its length is not known.</summary>
    StreamEndNotFound,

    /// <summary>The end of an Ogg stream gives a length that its bytes cannot hold.</summary>
    StreamLengthAbsurd,

    /// <summary>Several Ogg streams stand one after the other.</summary>
    StreamsChained,

    /// <summary>A file stands behind a link. Facts: Other (where).</summary>
    BehindALink,

    /// <summary>A missing file stands in its place; the document writes its name in other case, another Unicode form, or with backslashes. Facts: Name (its path from the session folder).</summary>
    WrittenOtherwise,

    /// <summary>A library cannot decode the sound. Facts: Detail.</summary>
    SoundNotDecoded,

    /// <summary>A library cannot convert the sound. Facts: Detail.</summary>
    SoundNotConverted,

    /// <summary>The rates are too far apart. Facts: Count (from, in Hz), Expected (to, in Hz).</summary>
    RateNotConvertible,

    /// <summary>A library of the system is not installed. Facts: Name, Other (Debian's package).</summary>
    LibraryMissing,

    /// <summary>Only WAV recordings can be repaired. Facts: Name (the kind).</summary>
    OnlyWavIsRepaired,

    /// <summary>The sound is encoded, so nothing tells where a recording that was cut off ends.</summary>
    EncodedSoundHasNoEnd,

    /// <summary>The recording was cut off before any sound was written.</summary>
    NoSoundWritten,

    // Documents.

    /// <summary>The document is no JSON. Facts: Line.</summary>
    DocumentNotJson,

    /// <summary>The document holds bytes that are no text. Facts: Line.</summary>
    DocumentNotText,

    /// <summary>The document is JSON without a schema.</summary>
    DocumentWithoutSchema,

    /// <summary>The document holds something that is no timeline. Facts: Name (the schema).</summary>
    DocumentNoTimeline,

    /// <summary>The document cannot be opened. Facts: Detail.</summary>
    DocumentCannotBeOpened,

    /// <summary>Files of kinds that are not known: each may be a document that points at sound. Facts: Names.</summary>
    MayBeDocuments,

    /// <summary>A document points at more than can be followed. Facts: Name.</summary>
    PointsElsewhere,

    /// <summary>A sample instrument cannot be pointed at samples elsewhere: a folder is written as a part of their names. Facts: Path.</summary>
    InstrumentNotRepointed,

    /// <summary>Sample instruments go along and may be silent there, since they could not be pointed at their samples. Facts: Names, Count.</summary>
    InstrumentsMayBeSilent,

    /// <summary>A sample instrument plays more than can be followed, so it is not copied. Facts: Name.</summary>
    InstrumentStays,

    /// <summary>A file is a sample of instruments. Facts: Names.</summary>
    SampleOfInstrument,

    /// <summary>The document is in a format that is not read yet. Facts: Name.</summary>
    DocumentOfUnknownFormat,

    /// <summary>A document is of another program: what it names is found in it, nothing in it can be changed. Facts: Name.</summary>
    DocumentOfAnotherProgram,

    /// <summary>Documents of other programs name media files. Facts: Names, Count (files named) of Number (media files in the folder).</summary>
    NamesFound,

    /// <summary>Such documents name too few of the media files that anything could follow from it. The same facts.</summary>
    TooFewNamesFound,

    /// <summary>A document of another program was not looked through to its end. Facts: Name.</summary>
    NamesNotAllFound,

    /// <summary>A file is named by a document of another program, which cannot be pointed anywhere else. Facts: Name (the file), Names (the documents of other programs).</summary>
    NamesAreNotRepointed,

    /// <summary>What a document of another program names cannot be changed, since it is not text, or not wholly. Facts: Path (the document).</summary>
    DocumentIsNotText,

    /// <summary>It is open which file a name means. Facts: Path (the document), Name.</summary>
    NameIsOpen,

    /// <summary>Nothing tells how a document would write the new place of a file. Facts: Path (the document), Name (as it is written now).</summary>
    NameLeadsElsewhere,

    /// <summary>Names cannot be written in the way in which a document writes them. Facts: Path (the document), Names.</summary>
    NameCannotBeWritten,

    /// <summary>Before a name stands its length. Facts: Path (the document), Name, Other (the one in its place).</summary>
    NameStatesItsLength,

    /// <summary>Read again, a new version would name something else than it should. Facts: Path (the document).</summary>
    NamesWouldDiffer,

    /// <summary>A new version of another program's document is made. Facts: Name (the document), Other (the new version), Count (names that are exchanged).</summary>
    NewVersionIsNamedAnew,

    /// <summary>A document of another program goes on naming files where they were, beside one that does not. Facts: Path (the document), Reasons.</summary>
    StaysNamedIn,

    /// <summary>Files are copied in and the documents of other programs go on naming them where they are. Facts: Names (the documents), Count (the files).</summary>
    NamesStayAsTheyAre,

    /// <summary>Of the documents only the names in them are known: what is named nowhere may be used all the same.</summary>
    NamedNowhereIsNotUnused,

    /// <summary>A file that is named nowhere is set aside, and may be used all the same. Facts: Name.</summary>
    MayBeUsedAllTheSame,

    /// <summary>What is named nowhere is set aside one file at a time, and nothing else with it. Facts: Names (the documents of other programs).</summary>
    OneAtATime,

    /// <summary>What may be used all the same is deleted only where a backup holds it. Facts: Names, Count.</summary>
    OnlyWithABackup,

    /// <summary>All that is to be copied in is in the session already. Facts: Count, Names (the documents that name it elsewhere all the same).</summary>
    CopiesAreInside,

    /// <summary>The document is too large to be read. Facts: Bytes.</summary>
    DocumentTooLarge,

    /// <summary>The folder holds no session document.</summary>
    NoDocument,

    /// <summary>The session card states no current document that could be one, or cannot be read; the date decides. Facts: Path.</summary>
    SessionCardUnusable,

    /// <summary>What stands in place of the session card is no file, or a link, and cannot be replaced by one. Facts: Path.</summary>
    SessionCardInTheWay,

    /// <summary>The stated current document is not in the folder. Facts: Name.</summary>
    StatedDocumentGone,

    /// <summary>A document beside the current one was changed after it, and nobody stated which is current. Facts: Name, Other (the current one).</summary>
    NewerDocumentBeside,

    /// <summary>Media references of a kind that cannot be followed. Facts: Name (the schema), Count.</summary>
    UnfollowedReferences,

    /// <summary>An entry of the session folder cannot be looked at. Facts: Path, Detail or Reason.</summary>
    CannotBeLookedAt,

    /// <summary>A folder of the session is a link; what is in it stands elsewhere. Facts: Path, Other (where it leads).</summary>
    FolderIsALink,

    /// <summary>A link leads to nothing. Facts: Path, Other (where it leads).</summary>
    LinkToNothing,

    /// <summary>A name holds bytes that are no text. Facts: Path.</summary>
    NameNotText,

    /// <summary>The session folder cannot be reached. Facts: Path.</summary>
    SessionFolderGone,

    // Places and requests.

    /// <summary>A path on a shelf must start at the shelf's top folder.</summary>
    PathNotRelative,

    /// <summary>A path leads out of its shelf. Facts: Name (the shelf).</summary>
    PathLeavesShelf,

    /// <summary>A link in a path leads out of its shelf. Facts: Name (the shelf).</summary>
    LinkLeavesShelf,

    /// <summary>Links go round in a circle. Facts: Path.</summary>
    LinksInCircle,

    /// <summary>A shelf is away. Facts: Name; Path, where it is about one file on it.</summary>
    ShelfAway,

    /// <summary>The drive of a shelf does not answer. Facts: Name.</summary>
    ShelfDoesNotAnswer,

    /// <summary>There is no such folder on a shelf. Facts: Path, Name (the shelf).</summary>
    NoSuchFolder,

    /// <summary>A shelf's folder went away during a scan. Facts: Path, Detail.</summary>
    ScanLostShelf,

    /// <summary>A shelf's folder is empty where files were known: the drive may not be mounted. Facts: Path.</summary>
    ScanFoundEmptyPlace,

    // The program's own data.

    /// <summary>Another process holds the data folder. Facts: Path.</summary>
    DataFolderInUse,

    /// <summary>The data folder cannot be used: it is a file, or cannot be written. Facts: Path, Detail.</summary>
    DataFolderUnusable,

    /// <summary>The database is damaged. Facts: Path, Detail.</summary>
    DatabaseDamaged,

    /// <summary>The file in the database's place is none of ours. Facts: Path.</summary>
    DatabaseForeign,

    /// <summary>The database was written by a later version. Facts: Path, Name (what it knows and we do not).</summary>
    DatabaseNewer,

    /// <summary>The drive of the database is full.</summary>
    DatabaseFull,

    /// <summary>The database cannot be read or written now. Facts: Detail.</summary>
    DatabaseFails,

    /// <summary>The port is taken by another program. Facts: Count (the port).</summary>
    PortInUse,

    /// <summary>There is no such thing (any more). Facts: Name (what kind of thing).</summary>
    NotKnown,

    /// <summary>A request makes no sense. Facts: Detail.</summary>
    RequestSenseless,

    /// <summary>The recorder runs in another session. Facts: Name.</summary>
    RecorderBusy,

    /// <summary>The recorder does not run in this session.</summary>
    RecorderElsewhere,

    /// <summary>A file that was sent did not arrive whole. Facts: Name, Bytes, Expected.</summary>
    UploadCutShort,

    // Planners.

    /// <summary>Making a plan was stopped.</summary>
    PlanningStopped,

    /// <summary>Somebody stopped a look at what a page is to show.</summary>
    LookStopped,

    /// <summary>Nothing that was chosen can be done. </summary>
    NothingToDo,

    /// <summary>No chosen file stands outside the session.</summary>
    NothingOutside,

    /// <summary>No file is missing of which nobody decided yet.</summary>
    NothingIsMissing,

    /// <summary>Nothing that is missing was found for certain. Facts: Count (what is missing), Number (of these, what has a match that somebody must compare).</summary>
    MatchesToCompare,

    /// <summary>No missing file was chosen with what is to take its place.</summary>
    NothingToRelink,

    /// <summary>A found file cannot be put where the document expects it, since no place on this machine that can be written is meant. <c>Name</c>, <c>Path</c>.</summary>
    NoPlaceToPutBack,

    /// <summary>A document cannot point at a file in a backup or a bundle; <c>Name</c>, <c>Other</c>: what holds it.</summary>
    KeptCannotBePointedAt,

    /// <summary>A found file has another rate than the lost one had. <c>Name</c>, <c>Count</c>: its rate, <c>Expected</c>: that of the lost one.</summary>
    FoundAtOtherRate,

    /// <summary>A found file ends before clips do that play it. <c>Name</c>, <c>Seconds</c>: its length, <c>UntilSeconds</c>: what is needed.</summary>
    FoundIsShorter,

    /// <summary>Nothing is chosen that could be set aside.</summary>
    NothingToSetAside,

    /// <summary>Nothing may be set aside, since documents in the folder cannot be read, or not wholly. Facts: Names.</summary>
    UseCannotBeKnown,

    /// <summary>A file that was chosen to be set aside is in use. Facts: Name, Names (the documents, sessions or instruments that use it).</summary>
    InUse,

    /// <summary>A file that was chosen to be set aside is being written. Facts: Name.</summary>
    BeingWritten,

    /// <summary>Keepers are among what is to be set aside. Facts: Names.</summary>
    KeepersAmong,

    /// <summary>Renders are among what is to be set aside, which may be the only sound for somebody without the instrument. Facts: Names.</summary>
    RendersAmong,

    /// <summary>Renders are to be set aside, and nobody said whether whoever opens the session next has the instruments. Facts: Names.</summary>
    RendersNotAsked,

    /// <summary>Documents that do not count still use what is to be set aside, and will miss it. Facts: Count (files), Names (documents).</summary>
    MissedBy,

    /// <summary>None of the chosen files stands on the session's list alone.</summary>
    NothingToTakeOffList,

    /// <summary>A file cannot be cut to a part of it. Facts: Path, or Name (what in it stands against that).</summary>
    CannotBeCut,

    /// <summary>The copy of a session would stand inside it. Facts: Path.</summary>
    CopyInsideSession,

    /// <summary>Older versions that do not count do not come along in a copy. Facts: Names.</summary>
    VersionsStayBehind,

    /// <summary>Nothing can be trimmed: all of what is chosen is in use, or of formats that are left whole.</summary>
    NothingToTrim,

    /// <summary>Files that are left whole, since their format cannot be cut to the sample. Facts: Names.</summary>
    LeftWholeLossy,

    /// <summary>Files that are left whole, since it is not known for certain which parts of them are played. Facts: Names.</summary>
    LeftWholeUnknown,

    /// <summary>Files that are left whole, since other sessions use them. Facts: Names.</summary>
    LeftWholeShared,

    /// <summary>Files that kept saves play are not trimmed in place. Facts: Names.</summary>
    LeftWholeKeptSave,

    /// <summary>Kept saves that do not count by choice will miss files. Facts: Count (files), Names (when they were saved).</summary>
    SavesMiss,

    /// <summary>Versions whose sound is deleted for good. Facts: Count (files), Names (the versions).</summary>
    VersionsBecomeSilent,

    /// <summary>Nothing is set aside that was chosen.</summary>
    NothingHeld,

    /// <summary>The list of what is set aside cannot be used. Facts: Path, Detail.</summary>
    HoldingListUnusable,

    /// <summary>What was set aside is not in the holding place any more. Facts: Name.</summary>
    HeldFileGone,

    /// <summary>The place that a file was set aside from is taken, so that it comes back under another name. Facts: Name, Other.</summary>
    ComesBackAs,

    /// <summary>A document that listed a file which comes back is not there, or cannot be read: it is not listed there again. Facts: Name (the document).</summary>
    NotListedAgain,

    /// <summary>Files are to be deleted that no backup is known to hold. Facts: Count, Bytes, Names.</summary>
    NoBackupHolds,

    /// <summary>No take waits to be put on the list.</summary>
    NoTakeWaits,

    /// <summary>No recording was cut off.</summary>
    NothingCutOff,

    /// <summary>No file was chosen.</summary>
    NothingChosen,

    /// <summary>A name cannot be used. Facts: Name, Other (one that would do), and the reason.</summary>
    NameUnusable,

    /// <summary>A name is empty.</summary>
    NameEmpty,

    /// <summary>A name is a dot or two, which stand for folders.</summary>
    NameIsADot,

    /// <summary>A name holds characters that Windows refuses. Facts: Name (those).</summary>
    NameHoldsRefused,

    /// <summary>A name holds a control character.</summary>
    NameHoldsInvisible,

    /// <summary>A name ends in a dot or a space.</summary>
    NameEndsInDotOrSpace,

    /// <summary>A name is that of a device. Facts: Name (the device).</summary>
    NameIsADevice,

    /// <summary>A name is too long. Facts: Expected (most bytes).</summary>
    NameTooLong,

    /// <summary>A session's name is too long for its document.</summary>
    NameTooLongForDocument,

    /// <summary>The wished name is taken in its place. Facts: Name.</summary>
    NameThereAlready,

    /// <summary>Other systems take the wished name for one that is there. Facts: Name (that one).</summary>
    NameClashes,

    /// <summary>A session of the wished name is known elsewhere. Facts: Path, Other (a name that would do).</summary>
    SessionOfThisName,

    /// <summary>Paths in a session get too long for other systems. Facts: Count, Expected (most characters), Other (a name that would do).</summary>
    PathsTooLong,

    /// <summary>It is no media file that is known. Facts: Name.</summary>
    NotMedia,

    /// <summary>The document holds several timelines, so nothing tells which is meant.</summary>
    SeveralTimelines,

    /// <summary>There is no such track. Facts: Name.</summary>
    NoSuchTrack,

    /// <summary>The track cannot hold clips. Facts: Name.</summary>
    TrackHoldsNoClips,

    /// <summary>The track holds something whose length is not known. Facts: Name.</summary>
    TrackLengthUnknown,

    /// <summary>Something plays there already. Facts: Name (the track), Other (the clip), Seconds and UntilSeconds.</summary>
    TrackOccupied,

    /// <summary>The gap on the track is too short. Facts: Name.</summary>
    GapTooShort,

    /// <summary>The length of a file is not known. Facts: Name.</summary>
    LengthUnknown,

    /// <summary>A clip cannot be taken off its track, since a transition plays on it. Facts: Name (the track), Other (the clip).</summary>
    ClipInTransition,

    /// <summary>A take plays in a stack within the timeline, where nothing is moved. Facts: Path.</summary>
    ClipInStack,

    /// <summary>A take tells no time of its own, so it needs one to be placed at. Facts: Path.</summary>
    TakeWithoutTime,

    /// <summary>A take fits no track, so it needs one to be placed on. Facts: Path.</summary>
    TakeWithoutTrack,

    /// <summary>A take begins before the session does. Facts: Path.</summary>
    TakeBeforeStart,

    /// <summary>A file is no take of this session. Facts: Path.</summary>
    NoTake,

    /// <summary>Nothing in the take log is to change.</summary>
    TakeLogUnchanged,

    /// <summary>A bundle would stand in a session's folder. Facts: Name; Path is its own folder when it is the session that is packed.</summary>
    BundleInsideSession,

    /// <summary>A recording is still growing. Facts: Path.</summary>
    StillGrowing,

    /// <summary>A recording cannot be repaired. Facts: Path, and the reason.</summary>
    CannotBeRepaired,

    /// <summary>These are the settings already.</summary>
    SameSettings,

    /// <summary>Only one session stands in the folder.</summary>
    OnlyOneSession,

    /// <summary>The document is there already, the same byte for byte. Facts: Name.</summary>
    DocumentThereAlready,

    /// <summary>The mirror has every take.</summary>
    NothingMissingOnMirror,

    /// <summary>A sub-folder's name cannot be used. Facts: Name, and the reason.</summary>
    SubfolderUnusable,

    /// <summary>Two sub-folders are one and the same. Facts: Names.</summary>
    SubfoldersClash,

    // What does not stand in a plan's way, and should be known before it is applied.

    /// <summary>A sound is at another rate than the session, and plays at another speed and pitch there. Facts: Name, Count (its rate, in Hz), Expected (the session's), and what is done about it.</summary>
    RateDiffers,

    /// <summary>Files will be at another rate than the session. Facts: Number (of files), Count (the rate so far, in Hz), Expected (the new one).</summary>
    RateOfFilesDiffers,

    /// <summary>It is taken as it is.</summary>
    TakenAsItIs,

    /// <summary>It is not converted, since its length is not known.</summary>
    NotConvertedLengthUnknown,

    /// <summary>A file comes in under another name: its own is taken, or, with reasons, not accepted everywhere. Facts: Name, Other (the new name).</summary>
    ComesInAs,

    /// <summary>A file inside holds the same sound with other texts. Facts: Name, Other (that file).</summary>
    SameSoundInside,

    /// <summary>The same file is inside, and is used instead. Facts: Name, Other (that file).</summary>
    SameFileInside,

    /// <summary>An older document cannot be read, so it stays as it is. Facts: Name.</summary>
    OlderDocumentStays,

    /// <summary>A file cannot be read as sound, and is taken as it is. Facts: Name, and the reason.</summary>
    NoSoundToRead,

    /// <summary>A file stays outside the session. Facts: Name, Other (its shelf; null for none).</summary>
    StaysOutside,

    /// <summary>A track is added to the session. Facts: Name.</summary>
    TrackAdded,

    /// <summary>No track fits a take. Facts: Name.</summary>
    NoTrackFits,

    /// <summary>A take that the mirror lacks is gone from the session. Facts: Path.</summary>
    TakeGone,

    /// <summary>Entries of the folder cannot be opened, and do not go along. Facts: Names.</summary>
    CannotBePacked,

    /// <summary>Folders that are links do not go along. Facts: Names.</summary>
    LinkedFoldersStay,

    /// <summary>Links that lead to nothing do not go along. Facts: Names.</summary>
    LinksToNothingStay,

    /// <summary>Pipes, sockets and devices do not go along. Facts: Names.</summary>
    NoFilesStay,

    /// <summary>A document of this kind cannot be changed in that way. Facts: Name, Other (what the kind is called).</summary>
    DocumentLacksPart,

    /// <summary>The document names a folder for waveform caches that is, or holds, another folder of the session: it counts as none. Facts: Name.</summary>
    CacheFolderInUse,

    /// <summary>Media outside are still there as they were: documents point at them, and they do not come back. Facts: Names.</summary>
    StillOutside,

    /// <summary>Something else stands where media outside stood: these come back, and documents point at them. Facts: Names.</summary>
    AnotherStandsOutside,

    /// <summary>Media outside are not there, and did not come with the session. Facts: Names.</summary>
    OutsideNotThere,

    /// <summary>Files that a bundle cannot take along. Facts: Names.</summary>
    SilentInBundle,

    /// <summary>Files that get another place or name in a bundle. Facts: Count.</summary>
    MovedInBundle,

    /// <summary>A path in a bundle is longer than Windows takes. Facts: Count (characters), Expected (most).</summary>
    BundlePathTooLong,

    /// <summary>Nothing tells whether a bundle is complete, since the document cannot be read.</summary>
    BundleUseUnknown,

    /// <summary>The bundle is larger than what reaches its recipient. Facts: Name, Bytes, Free as the most that does.</summary>
    BundleTooLargeToSend,

    /// <summary>The recipient's program does not read the document, and no printed tracks go along. Facts: Name.</summary>
    RecipientCannotRead,

    /// <summary>Effects that the recipient does not have. Facts: Name, Names.</summary>
    RecipientLacks,

    /// <summary>No track can be printed: no document tells what is placed.</summary>
    NothingToPrint,

    /// <summary>Tracks that cannot be printed truly, and are not. Facts: Names, with the reasons.</summary>
    TracksNotPrinted,

    /// <summary>Tracks whose prints lack something, or hold silence where something should play. Facts: Names, with what.</summary>
    TracksPrintedOtherwise,

    /// <summary>A sound file that was packed does not come back bit for bit. Facts: Path, Reasons.</summary>
    NotPackedWithoutLoss,

    /// <summary>No sound is packed, since a document cannot be pointed at what it would be. Facts: Name (the document).</summary>
    PackingNeedsDocument,

    /// <summary>Kept saves go along with packed sound, and point at it as it was.</summary>
    KeptSavesPointAtUnpacked,

    /// <summary>A bundle would come in more parts than are numbered. Facts: Bytes (of a part), Expected (most).</summary>
    TooManyParts,

    /// <summary>Parts of a bundle are smaller than makes sense. Facts: Bytes (least).</summary>
    PartsTooSmall,

    /// <summary>A new version points at files outside. Facts: Names.</summary>
    VersionPointsOutside,

    /// <summary>The parent folder of a new session holds a session. Facts: Path.</summary>
    ParentHoldsSession,

    /// <summary>A new session would stand inside another. Facts: Path.</summary>
    ParentInSession,

    /// <summary>A session would stand on a drive that can leave. Facts: Name (the shelf).</summary>
    DriveCanLeave,

    /// <summary>A drive has little room for what is to be recorded. Facts: Free, Bytes (that all passes take), Count (passes).</summary>
    DriveNearlyFull,

    /// <summary>Media that no document uses stay in a folder that is taken apart. Facts: Count, Name (the folder).</summary>
    IdleMediaStays,

    /// <summary>A document gets another name in its new place. Facts: Name, Other (the new name).</summary>
    DocumentRenamed,

    /// <summary>Another writer is at work in a vault. Facts: Path.</summary>
    VaultBusy,

    /// <summary>Work that was cut off before in the folders of a plan was finished or undone after the plan was made.</summary>
    UndoneMeanwhile,

    /// <summary>A folder of a vault is a link, a file, or another drive, so that what is written there goes elsewhere. Facts: Path.</summary>
    VaultLeadsElsewhere,

    /// <summary>Another vault stands where one stood a moment ago. Facts: Path.</summary>
    VaultExchanged,

    /// <summary>A vault is of another format than this version writes. Facts: Path.</summary>
    VaultOfOtherFormat,

    /// <summary>A folder has a vault's name and holds something else. Facts: Path, Name (a file in it).</summary>
    NoVault,

    /// <summary>The manifest of a backup is not what was written. Facts: Path, Detail.</summary>
    ManifestDamaged,

    /// <summary>The manifest of a backup is gone, though nobody let that go. Facts: Path.</summary>
    ManifestMissing,

    /// <summary>The manifest of a backup is of a later version. Facts: Path.</summary>
    ManifestOfLaterVersion,

    /// <summary>Content of a vault is not what was backed up. Facts: Path, Name (the file that it is of).</summary>
    BackupContentDamaged,

    /// <summary>Content of a vault is not there. Facts: Path, Name (the file that it is of).</summary>
    BackupContentMissing,

    /// <summary>A version that was kept is no longer there. Facts: Name.</summary>
    VersionGone,

    /// <summary>A version holds no track of this name. Facts: Name.</summary>
    TrackNotInVersion,

    /// <summary>Files are not in the version. Facts: Names.</summary>
    NotInTheVersion,

    /// <summary>Files that are to come back are there already, as they were. Facts: Names.</summary>
    ThereAlready,

    /// <summary>A file comes back under another name, since another one has its place. Facts: Name, Other.</summary>
    ComesBackBeside,

    /// <summary>Media that a version points at are missing now, and no backup holds them. Facts: Names.</summary>
    VersionIsSilent,

    /// <summary>Which document is current stays as it is. Facts: Name (the current one).</summary>
    CurrentStays,

    /// <summary>A folder that is to take a session in is not empty. Facts: Path.</summary>
    PlaceNotEmpty,

    /// <summary>A session would be restored into a session. Facts: Path.</summary>
    RestoreIntoSession,

    /// <summary>A session would be restored into a vault. Facts: Path.</summary>
    RestoreIntoVault,

    /// <summary>A backup was made without files that could not be had. Facts: Names.</summary>
    BackupLeftOut,

    /// <summary>Found files are taken for missing ones, though nothing tells that they are the same and nobody compared them. Facts: Names (of the missing files).</summary>
    NotCompared,

    /// <summary>Documents are pointed at media that stood outside and come back with the session. Facts: Count (files), Names (the documents).</summary>
    PointsAtWhatCameBack,

    /// <summary>The document of a session is not one whose tracks can be changed. Facts: Name.</summary>
    TracksNotTaken,

    /// <summary>No program of the machine shows a folder. Facts: Path (the folder).</summary>
    FolderNotShown,
}
