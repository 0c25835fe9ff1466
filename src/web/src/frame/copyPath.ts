import { useTell } from "./Tell";

/** Puts a path where other programs can paste it; where the browser does not let that be done, it is shown. */
export function useCopyPath() {
  const tell = useTell();
  return async (path: string) => {
    try {
      await navigator.clipboard.writeText(path);
      tell.success("The path is copied.");
    } catch {
      tell.error(`The browser does not let it be copied: ${path}`);
    }
  };
}
