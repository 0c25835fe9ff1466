import { readdirSync, readFileSync } from "node:fs";
import { dirname, join, relative } from "node:path";
import { describe, expect, test } from "vitest";

const root = join(import.meta.dirname, "../src");
const all = readdirSync(root, { recursive: true, encoding: "utf8" });
const text = (file: string) => readFileSync(join(root, file), "utf8");
const sheets = all.filter((f) => f.endsWith(".css"));
const camel = (name: string) => name.replace(/-([a-z])/g, (_, letter: string) => letter.toUpperCase());
const classesOf = (css: string) =>
  new Set(
    [...css.replace(/:global\([^)]*\)|\/\*[\s\S]*?\*\/|:not\([^)]*\)/g, "").matchAll(/([^{}]+)\{/g)]
      .filter(([, selector = ""]) => !selector.trim().startsWith("@"))
      .flatMap(([, selector = ""]) => [...selector.matchAll(/\.([a-zA-Z][\w-]*)/g)].map((m) => m[1] ?? "")),
  );

/** Of each sheet the names of its classes that pages use. */
const used = new Map<string, Set<string>>();
for (const file of all.filter((f) => f.endsWith(".tsx"))) {
  const code = text(file);
  for (const [, name, path = ""] of code.matchAll(/import (\w+) from "(\.[^"]*\.module\.css)"/g)) {
    const sheet = relative(root, join(root, dirname(file), path));
    const names = used.get(sheet) ?? new Set();
    for (const [, member = ""] of code.matchAll(new RegExp(`\\b${name}\\.(\\w+)`, "g"))) names.add(member);
    used.set(sheet, names);
  }
}

describe("styles", () => {
  test.each(sheets.filter((f) => f.endsWith(".module.css")))("%s holds just the classes that are used", (sheet) => {
    expect([...classesOf(text(sheet))].map(camel).toSorted()).toEqual([...(used.get(sheet) ?? [])].toSorted());
  });

  test("what all pages share stands in one sheet, and every plain name is one of its words", () => {
    const words = classesOf(text("theme/base.css"));
    const plain = all
      .filter((f) => f.endsWith(".tsx"))
      .flatMap((file) =>
        [...text(file).matchAll(/className="([^"]*)"/g)].flatMap(([, names = ""]) =>
          names.split(" ").map((n) => [file, n]),
        ),
      )
      .filter(([, name = ""]) => !words.has(name));
    expect(plain).toEqual([]);
    expect(sheets.filter((f) => !f.endsWith(".module.css"))).toEqual([join("theme", "base.css")]);
  });

  test("sizes of type are those of the scale", () => {
    const own = sheets.flatMap((f) => [...text(f).matchAll(/font-size: (?!var\(--size-)[^;]*/g)].map((m) => [f, m[0]]));
    expect(own).toEqual([]);
  });
});
