import type { PurgeGroup } from "../api/types";

interface GroupWords {
  title: string;
  /** What it is, for whoever sees it the first time. */
  about: string;
  /** How it comes back. */
  back: string;
}

const putBack = "Put back any time, to the same place.";

/** The groups of what could go, in the words of a session day. */
export const groupWords: Record<PurgeGroup, GroupWords> = {
  UnplacedTakes: {
    title: "Takes nobody placed",
    about: "no clip of any version that counts plays them",
    back: putBack,
  },
  TriedSamples: { title: "Tried and left", about: "samples on the list that no clip plays", back: putBack },
  Strays: { title: "On no list", about: "in the folder, and in no document", back: putBack },
  SameSound: {
    title: "Same sound twice",
    about: "another file holds it too; clips play that one instead",
    back: "Undo brings back the file and its clips.",
  },
  Renders: { title: "Renders of instruments here", about: "tick each file yourself", back: putBack },
  Bounces: { title: "Bounces", about: "finished mixes by month, the oldest first", back: putBack },
  NamedNowhere: { title: "Named nowhere", about: "may be used all the same: one file at a time", back: putBack },
  Caches: { title: "Waveform caches", about: "drawn by programs", back: "They are drawn again by themselves." },
  Litter: { title: "Left by systems", about: ".DS_Store, Thumbs.db and the like", back: putBack },
  EmptyFolders: { title: "Empty folders", about: "other than the session's own", back: putBack },
};

const monthStamp = new Intl.DateTimeFormat("en-GB", { month: "long", year: "numeric", timeZone: "UTC" });

/** A month in words, from a year and a month in digits. */
export const month = (part: string) => monthStamp.format(new Date(`${part}-01T00:00:00Z`));

export const groupOrder = Object.keys(groupWords) as PurgeGroup[];
