import "@fontsource-variable/instrument-sans/index.css";
import "@fontsource/barlow-condensed/latin-500.css";
import "@fontsource/barlow-condensed/latin-ext-500.css";
import "@fontsource/barlow-condensed/latin-ext-600.css";
import "@fontsource/ibm-plex-mono/latin-ext-400.css";
import "@fontsource/barlow-condensed/latin-600.css";
import "@fontsource/ibm-plex-mono/latin-400.css";
import "./theme/base.css";
import { QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { App } from "./App";
import { listen } from "./api/news";
import { queryClient } from "./api/queries";

// A file that is dropped where nothing takes it must not replace the page, and with it what somebody was doing.
for (const kind of ["dragover", "drop"]) window.addEventListener(kind, (e) => e.preventDefault());

const root = document.getElementById("root");
if (!root) throw new Error("The page has no place to draw in.");
createRoot(root).render(
  <StrictMode>
    <QueryClientProvider client={queryClient}>
      <App />
    </QueryClientProvider>
  </StrictMode>,
);
listen().catch((error: unknown) => console.error("No news about jobs can be heard:", error));
