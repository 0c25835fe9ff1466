import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

const server = process.env.NEAT_CRATE_SERVER ?? "http://127.0.0.1:5180";

export default defineConfig({
  plugins: [react()],
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
