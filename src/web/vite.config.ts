import { basename } from "node:path";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

const server = process.env.NEAT_CRATE_SERVER ?? "http://127.0.0.1:5180";

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
          groups: [{ name: "react", test: /node_modules[\\/](react|react-dom|react-router|scheduler)[\\/]/ }],
        },
      },
    },
  },
});
