import { basename } from "node:path";
import { fileURLToPath } from "node:url";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

const server = process.env.NEAT_CRATE_SERVER ?? "http://127.0.0.1:5180";

const entry = fileURLToPath(new URL("src/main.tsx", import.meta.url));

interface Modules {
  getModuleInfo: (id: string) => { importedIds: readonly string[] } | null;
}

let first: ReadonlySet<string> | null = null;

/**
 * All that the first page needs at once. It stands in one file: the same parts are shared by pages that come later, and would
 * be cut into a file for each set of pages that share them otherwise, two dozen to be asked for before anything is seen.
 */
function neededAtFirst(modules: Modules, entry: string): ReadonlySet<string> {
  const found = new Set([entry]);
  // What these need of libraries goes along by itself; all that a library could give is more than that.
  for (const id of found)
    for (const next of modules.getModuleInfo(id)?.importedIds ?? [])
      if (!next.includes("node_modules")) found.add(next);
  return found;
}

export default defineConfig({
  plugins: [react()],
  css: {
    modules: {
      localsConvention: "camelCaseOnly",
      // A class is named after the file that it stands in, so that it can be read in the page and asked for in tests.
      generateScopedName: (name, file) => {
        const sheet = basename(file).replace(/\.module\.css.*$/, "");
        return name === sheet || name.startsWith(`${sheet}-`) ? name : `${sheet}-${name}`;
      },
    },
  },
  server: {
    proxy: {
      "/api": server,
      "/hubs": { target: server, ws: true },
    },
  },
  build: {
    outDir: "dist",
    assetsInlineLimit: 0,
    chunkSizeWarningLimit: 900,
    rolldownOptions: {
      output: {
        codeSplitting: {
          groups: [
            { name: "react", test: /node_modules[\\/](react|react-dom|react-router|scheduler)[\\/]/ },
            {
              debugName: "first",
              name: (id, modules) => {
                first ??= neededAtFirst(modules, entry);
                return first.has(id) ? "first" : null;
              },
            },
          ],
        },
      },
    },
  },
});
