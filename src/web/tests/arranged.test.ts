import { expect, it } from "vitest";
import type { SessionLabel } from "../src/api/types";
import { anywhere, arranged, blockOf, grouped, inBlocks, statesOf, sumOf, withinOf } from "../src/loading-bay/arranged";

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
    { state: "needs", sessions: 2 },
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

it("many are drawn in blocks, in their order, none left out", () => {
  const many = Array.from({ length: 2 * blockOf + 1 }, (_, n) => label(`${n}`, {}));
  expect(inBlocks(many).map((b) => b.length)).toEqual([blockOf, blockOf, 1]);
  expect(inBlocks(many).flat()).toEqual(many);
  expect(inBlocks([])).toEqual([]);
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
    folders: [{ value: "/drive/Lamplighters", sessions: 4 }],
    documents: [
      { value: ".reel", sessions: 2 },
      { value: ".otio", sessions: 1 },
      { value: "no document", sessions: 1 },
    ],
  });
  expect(names(found, "", null, "needs", { ...anywhere, document: ".reel" })).toEqual(["b", "c"]);
  expect(names(found, "", null, "needs", { ...anywhere, shelf: "Attic drive", document: ".reel" })).toEqual(["b"]);
  expect(withinOf(all).folders).toEqual([
    { value: "/drive/Lamplighters", sessions: 3 },
    { value: "/attic/2009", sessions: 2 },
  ]);
  expect(names(all, "take", null, "needs", { ...anywhere, folder: "/attic/2009" })).toEqual(["Take 10", "Take 9"]);
  expect(names(found, "", null, "needs", { ...anywhere, shelf: "no shelf" })).toEqual(["d"]);
});

it("all of them are summed up in one line, each part of which shows its sessions", () => {
  expect(sumOf([])).toEqual([]);
  expect(sumOf([low])).toEqual([{ text: "1 session, 23 B", of: "all" }]);
  const alone = { ...net, backup: { safety: { onlyHere: { files: 1200, bytes: 5 } } } } as unknown as SessionLabel;
  expect(sumOf([tar, alone, low])).toEqual([
    { text: "3 sessions, 40 B", of: "all" },
    { text: "2 need you", of: "needs" },
    { text: `${(1200).toLocaleString("en")} files only here`, of: "onlyHere" },
  ]);
  expect(arranged([tar, alone, low], "", "needs", "needs")).toEqual([tar, alone]);
});
