import type { ManyBackups } from "../api/types";
import type { useTell } from "../frame/Tell";
import { count } from "../words";

/** Tells what was begun for many sessions at once, and for which of them no vault is there. */
export function tellBegun(tell: ReturnType<typeof useTell>, { jobs, without }: ManyBackups) {
  if (jobs.length > 0) tell.success(`${count(jobs.length, "full backup")} begun. Jobs tell how far they are.`);
  if (without.length > 0)
    tell.warning(`No vault on another drive is there for ${without.join(", ")}. Plug one in, or add one at Shelves.`);
}
