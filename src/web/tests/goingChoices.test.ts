import { expect, it } from "vitest";
import type { PurgeFile, PurgeInfo } from "../src/api/types";
import { anythingGoes, type Going, goes, nothingGoes, withFiles, withGroup } from "../src/purge/choices";

const file = (id: string, group: PurgeFile["group"], isOnlyByName = false) =>
  ({ file: { id }, group, isOnlyByName }) as PurgeFile;

const takes = [file("a", "UnplacedTakes"), file("b", "UnplacedTakes"), file("keeper", "UnplacedTakes", true)];
const other = file("s", "Strays");

const going = (choice: Going) => [...takes, other].filter((f) => goes(f, choice)).map((f) => f.file.id);

it("takes a group without what goes only by name", () => {
  const choice = withGroup(nothingGoes, "UnplacedTakes", ["a", "b", "keeper"], true);
  expect(going(choice)).toEqual(["a", "b"]);
  expect(going(withFiles(choice, ["keeper"], takes, true))).toEqual(["a", "b", "keeper"]);
});

it("keeps and lets go single files of a group that goes, and of one that does not", () => {
  const choice = withFiles(withGroup(nothingGoes, "UnplacedTakes", ["a", "b", "keeper"], true), ["a"], takes, false);
  expect(going(choice)).toEqual(["b"]);
  expect(going(withFiles(choice, ["a", "s"], [...takes, other], true))).toEqual(["a", "b", "s"]);
  expect(going(withFiles(nothingGoes, ["b"], takes, true))).toEqual(["b"]);
});

it("marks files that are out of sight, and a group that stays takes its single files along", () => {
  const choice = withFiles(nothingGoes, ["a", "b"], [], true);
  expect(going(choice)).toEqual(["a", "b"]);
  expect(going(withGroup(choice, "UnplacedTakes", ["a", "b", "keeper"], false))).toEqual([]);
  expect(going(withFiles(choice, ["a", "b"], [], false))).toEqual([]);
});

it("plans nothing where a group holds only what goes by name", () => {
  const info = { groups: [{ group: "Renders", files: 1, onlyByName: 1 }] } as PurgeInfo;
  expect(anythingGoes(withGroup(nothingGoes, "Renders", [], true), info)).toBe(false);
  expect(anythingGoes(withFiles(nothingGoes, ["r"], [], true), info)).toBe(true);
});
