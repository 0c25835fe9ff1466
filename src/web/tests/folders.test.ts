import { readdirSync, readFileSync } from "node:fs";
import { dirname, join, relative, resolve } from "node:path";
import { fileURLToPath } from "node:url";
import { expect, it } from "vitest";

const source = fileURLToPath(new URL("../src", import.meta.url));

/** Each folder may import from those before it, and from itself. Files of the top level belong to no folder. */
const order = [
  "theme",
  "api",
  "frame",
  "listening",
  "weighbridge",
  "jobs",
  "plans",
  "shelves",
  "files",
  "copy-in",
  "relink",
  "backups",
  "purge",
  "set-up",
  "adopt",
  "record",
  "bundles",
  "session",
  "settings",
  "loading-bay",
  "top-strip",
];

/** The folder that a file stands in; nothing for the top level. */
const folderOf = (path: string) => {
  const [first, ...more] = relative(source, path).split("/");
  return more.length > 0 ? first : undefined;
};

const files = readdirSync(source, { recursive: true, encoding: "utf8" })
  .filter((f) => /\.tsx?$/.test(f))
  .map((f) => join(source, f));

const imports = files.flatMap((file) =>
  [...readFileSync(file, "utf8").matchAll(/(?:from|import)\s*\(?\s*"(\.[^"]*)"/g)].map((match) => ({
    file: relative(source, file),
    from: folderOf(file),
    to: folderOf(resolve(dirname(file), match[1] ?? "")),
  })),
);

it("folders import in one direction", () => {
  expect(imports.length).toBeGreaterThan(150);
  expect(new Set(files.map(folderOf).filter(Boolean))).toEqual(new Set(order));
  const against = imports.filter(({ from, to }) => from && to && order.indexOf(to) > order.indexOf(from));
  expect(against.map(({ file, to }) => `${file} imports ${to}`)).toEqual([]);
});
