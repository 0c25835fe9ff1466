import { expect, it } from "vitest";
import type { SessionLabel } from "../src/api/types";
import { anywhere, arranged, firstOf, grouped, statesOf, sumWords, withinOf } from "../src/loading-bay/arranged";

const label = (name: string, part: Partial<SessionLabel>): SessionLabel =>
  ({
    id: name,
    name,
    folder: `/drive/Lamplighters/${name}`,
    attention: "InOrder",
    says: [],
    bytes: 0,
    backup: null,
    documentChanged: null,
    ...part,
  }) as unknown as SessionLabel;

const tar = label("261008 Tar and Twine", {
  attention: "Silent",
  says: [
    { about: "Silent", joint: "", text: "16 files are missing" },
    { about: "Outside", joint: "; ", text: "2 files stand outside the session folder, 1 MB." },
  ],
  bytes: 5,
  documentChanged: "2026-10-08T16:00:00Z",
});
const net = label("261014 Net Mender", {
  attention: "AtRisk",
  says: [{ about: "Outside", joint: "", text: "3 files" }],
  bytes: 12,
  documentChanged: "2026-10-14T23:30:00Z",
});
const low = label("261005 Low Water", { bytes: 23, documentChanged: "2026-10-05T17:30:00Z" });
const old = label("Take 10", { bytes: 1, folder: "/attic/2009/Take 10" });
const older = label("Take 9", { bytes: 1, folder: "/attic/2009/Take 9" });
const all = [tar, net, low, old, older];

it("a session counts in every state that its sentence tells of", () => {
  expect(statesOf(all)).toEqual([
    { state: "silent", sessions: 1 },
    { state: "outside", sessions: 2 },
    { state: "inOrder", sessions: 3 },
  ]);
  expect(arranged(all, "", "outside", "needs")).toEqual([tar, net]);
});

it("all words count, those of folders too", () => {
  expect(arranged(all, "2009  take", null, "needs")).toEqual([old, older]);
  expect(arranged(all, "water 2009", null, "needs")).toEqual([]);
});

it("orders are whole: what has no time comes last, numbers in names count as numbers", () => {
  expect(arranged(all, "", null, "saved")).toEqual([net, tar, low, older, old]);
  expect(arranged(all, "", null, "size")).toEqual([low, net, tar, older, old]);
  expect(arranged(all, "take", null, "name")).toEqual([older, old]);
});

it("sessions of one folder stand together, whatever order they came in", () => {
  const groups = grouped(arranged([old, tar, older, low], "", null, "folder"), "folder");
  expect(groups.map((g) => [g.path, g.sessions.map((s) => s.name)])).toEqual([
    ["/attic/2009", ["Take 9", "Take 10"]],
    ["/drive/Lamplighters", ["261005 Low Water", "261008 Tar and Twine"]],
  ]);
  expect(grouped([old, tar], "needs")).toEqual([{ path: null, sessions: [old, tar] }]);
});

it("of many the first are drawn, and each group tells how many it has in all", () => {
  const groups = grouped(arranged([old, tar, older, low], "", null, "folder"), "folder");
  const told = (most: number) => firstOf(groups, most).map((g) => [g.path, g.sessions.map((s) => s.name), g.all]);
  expect(told(1)).toEqual([["/attic/2009", ["Take 9"], 2]]);
  expect(told(3)).toEqual([
    ["/attic/2009", ["Take 9", "Take 10"], 2],
    ["/drive/Lamplighters", ["261005 Low Water"], 2],
  ]);
});

it("narrowed to a shelf and to a kind of document, which every program has of its own", () => {
  const found = [
    label("a", { shelfName: "Attic drive", document: "a.otio" }),
    label("b", { shelfName: "Attic drive", document: "b.REEL" }),
    label("c", { shelfName: "Session drive", document: "c.reel" }),
    label("d", { shelfName: null, document: null }),
  ];
  const names = (...by: Parameters<typeof arranged>) => arranged(...by).map((s) => s.name);
  expect(withinOf(found)).toEqual({
    shelves: [
      { value: "Attic drive", sessions: 2 },
      { value: "no shelf", sessions: 1 },
      { value: "Session drive", sessions: 1 },
    ],
    documents: [
      { value: ".reel", sessions: 2 },
      { value: ".otio", sessions: 1 },
      { value: "no document", sessions: 1 },
    ],
  });
  expect(names(found, "", null, "needs", { ...anywhere, document: ".reel" })).toEqual(["b", "c"]);
  expect(names(found, "", null, "needs", { shelf: "Attic drive", document: ".reel" })).toEqual(["b"]);
  expect(names(found, "", null, "needs", { ...anywhere, shelf: "no shelf" })).toEqual(["d"]);
});

it("all of them are summed up in one line", () => {
  expect(sumWords([])).toBe("No session is known yet.");
  expect(sumWords([low])).toBe("1 session, 23 B; none needs you.");
  const alone = { ...net, backup: { safety: { onlyHere: { files: 1200, bytes: 5 } } } } as unknown as SessionLabel;
  expect(sumWords([tar, alone, low])).toBe(
    `3 sessions, 40 B; 2 need you; ${(1200).toLocaleString("en")} files only here.`,
  );
});
