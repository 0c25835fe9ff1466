import { describe, expect, it } from "vitest";
import { foundWords, isTicked, narrowed, noTicks, ticked, whatItIs, whichOf } from "../src/adopt/foundSessions";
import type { FoundSession } from "../src/api/types";

const folder = (path: string, as: FoundSession["as"] = "Session", more: Partial<FoundSession> = {}): FoundSession => ({
  path,
  as,
  of: null,
  knownAs: null,
  documents: ["song.loft"],
  isByNames: true,
  media: 2,
  bytes: 1_000_000,
  saved: "2024-02-01T20:00:00Z",
  attention: "InOrder",
  says: "Everything that is named is inside.",
  ...more,
});

const all = [
  folder("2024/Winter"),
  folder("2024/Spring", "Session", { attention: "Silent", documents: ["spring.otio"] }),
  folder("Net Mender", "Known", { attention: "Silent" }),
  folder("Net Mender again", "Copy", { of: "Net Mender" }),
  folder("Backups/Winter", "Backup", { of: "Backups" }),
  folder("Shut", "Unreadable", { attention: "Unreadable" }),
];

const tickedOf = (ticks: typeof noTicks) => all.filter((f) => isTicked(f, ticks)).map((f) => f.path);

describe("what is ticked", () => {
  it("is what nobody knows yet, until somebody says otherwise", () => {
    expect(tickedOf(noTicks)).toEqual(["2024/Winter", "2024/Spring"]);
    const [winter, , , again] = all;
    const by = ticked(ticked(noTicks, [winter as FoundSession], false), [again as FoundSession], true);
    expect(tickedOf(by)).toEqual(["2024/Spring", "Net Mender again"]);
    expect(tickedOf(ticked(by, [winter as FoundSession], true))).toEqual([
      "2024/Winter",
      "2024/Spring",
      "Net Mender again",
    ]);
  });

  it("is never what is known or cannot be looked at", () => {
    expect(tickedOf(ticked(noTicks, all, true))).toEqual([
      "2024/Winter",
      "2024/Spring",
      "Net Mender again",
      "Backups/Winter",
    ]);
    expect(tickedOf(ticked(noTicks, all, false))).toEqual([]);
  });

  it("stays ticked when a search finds more, and goes when it becomes known", () => {
    const ticks = ticked(noTicks, all, true);
    expect(isTicked(folder("New one"), ticks)).toBe(true);
    expect(isTicked(folder("2024/Winter", "Known"), ticks)).toBe(false);
  });
});

describe("the list", () => {
  it("is narrowed by kind and by words of path and documents", () => {
    const paths = (...by: Parameters<typeof narrowed>) => narrowed(...by).map((f) => f.path);
    expect(paths(all, "lacking", "")).toEqual(["2024/Spring"]);
    expect(paths(all, "new", "winter")).toEqual(["2024/Winter"]);
    expect(paths(all, "all", "OTIO 2024")).toEqual(["2024/Spring"]);
    expect(paths(all, "others", "")).toEqual(["Net Mender", "Net Mender again", "Backups/Winter", "Shut"]);
    expect(whichOf(all)).toEqual([
      { which: "all", folders: 6 },
      { which: "new", folders: 2 },
      { which: "lacking", folders: 1 },
      { which: "others", folders: 4 },
    ]);
    expect(whichOf([])).toEqual([{ which: "all", folders: 0 }]);
  });

  it("is summed up in one line", () => {
    expect(foundWords(all)).toBe(
      "2 new sessions, 2.0 MB; 1 of them lacks files; 1 known already; 3 are copies or the like.",
    );
    expect(foundWords([folder("One")])).toBe("1 new session, 1.0 MB.");
    expect(foundWords(all.slice(2, 4))).toBe("No new session; 1 known already; 1 is a copy or the like.");
  });

  it("says of each what it is", () => {
    expect(all.map(whatItIs)).toEqual([
      null,
      null,
      "known already",
      "a copy of Net Mender",
      "in “Backups”, where backups are kept",
      null,
    ]);
  });
});
