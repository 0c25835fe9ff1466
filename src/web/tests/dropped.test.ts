import { expect, it } from "vitest";
import { droppedFiles, mostDropped, TooManyDropped } from "../src/copy-in/dropped";

const file = (name: string) => ({
  isFile: true,
  isDirectory: false,
  name,
  file: (done: (f: File) => void) => done(new File([name], name)),
});

/** A folder that tells its entries three at a time, as browsers tell them in parts. */
const folder = (name: string, inside: readonly object[]) => ({
  isFile: false,
  isDirectory: true,
  name,
  createReader: () => {
    const left = [...inside];
    return { readEntries: (done: (part: object[]) => void) => done(left.splice(0, 3)) };
  },
});

const drop = (entries: readonly object[], files: readonly File[] = []) =>
  ({ files, items: entries.map((entry) => ({ webkitGetAsEntry: () => entry })) }) as unknown as DataTransfer;

it("files of dropped folders are taken at any depth, hidden ones are not", async () => {
  const inner = folder("takes", ["a.wav", "b.wav", "c.wav", "d.wav", "._d.wav"].map(file));
  const got = await droppedFiles(
    drop([folder("day", [file("1.wav"), inner, folder(".cache", [file("x.wav")])]), file("loose.wav")]),
  );
  expect(got.map((f) => f.name)).toEqual(["1.wav", "a.wav", "b.wav", "c.wav", "d.wav", "loose.wav"]);
});

it("loose files are taken as they are", async () => {
  const files = [new File(["a"], "a.wav"), new File(["b"], "b.wav")];
  expect(await droppedFiles(drop([file("a.wav"), file("b.wav")], files))).toEqual(files);
});

it("a whole library is refused as a whole", async () => {
  const many = Array.from({ length: mostDropped + 1 }, (_, n) => file(`${n}.wav`));
  await expect(droppedFiles(drop([folder("library", many)]))).rejects.toThrow(TooManyDropped);
  expect(await droppedFiles(drop([folder("library", many.slice(1))]))).toHaveLength(mostDropped);
});
