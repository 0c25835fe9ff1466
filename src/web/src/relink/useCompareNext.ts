import type { LostDetails, Match, RelinkWay } from "../api/types";
import type { Judge } from "../files/FileList";
import type { FileRows } from "../files/useFiles";
import { useSessionId } from "../frame/sessionContext";
import { ofLost, ofMatch } from "../listening/mediaSource";
import { usePlayer } from "../listening/player";
import { isCertain, type Taken, takeable } from "./choices";
import type { LostRow } from "./useLostRows";

interface Compared {
  rows: FileRows;
  taken: Taken;
  /** What is known of the active row; null as long as it is asked for. */
  details: LostDetails | null;
  /** The file that is compared with it. */
  shown: Match | undefined;
  onShow: (id: string) => void;
  onTake: (lostId: string, foundId: string | null, only?: RelinkWay) => void;
}

/** The way in which a file comes back where it cannot in any other: what is kept in a backup stands nowhere that a document could point at. */
export const onlyWay = (match: Match, canPutBack: boolean): RelinkWay | undefined =>
  match.keptIn ? (canPutBack ? "PutBack" : "CopyIn") : undefined;

/** Pairs that nobody decided yet, one after the other, by keys: K uses what is shown, L does not, X shows the next that may be it, B plays the other of the two, N goes on. */
export function useCompareNext({ rows, taken, details, shown, onShow, onTake }: Compared) {
  const id = useSessionId();
  const lostOf = (row: (typeof rows.loaded)[number]) => (row as LostRow).lost;
  const open = rows.loaded.filter((row) => {
    const lost = lostOf(row);
    return takeable(lost) && !isCertain(lost) && taken[lost.id] === undefined;
  });
  /** The next behind a row, or from the top; null where there is no other. */
  const nextAfter = (fileId: string | null) => {
    const at = rows.loaded.findIndex((r) => r.id === fileId);
    const rest = open.filter((r) => r.id !== fileId);
    return (rest.find((r) => rows.loaded.indexOf(r) > at) ?? rest[0])?.id ?? null;
  };
  const other = () => {
    if (!shown?.isThere || !details) return;
    const [found, lost] = [ofMatch(shown), { ...ofLost(details), standing: "Outside" as const }];
    const { fileId, playing, at, seek, play } = usePlayer.getState();
    const to = playing && fileId === found.id && details.heardFrom ? lost : found;
    // The ear compares the same place of both.
    if (playing && (fileId === found.id || fileId === lost.id)) seek(id, to, at);
    play(id, to);
  };
  const judge: Judge = {
    k: (file) => {
      // What nobody has in sight yet is not taken.
      if (details?.lost.id !== file.id || !shown?.isThere) return null;
      onTake(file.id, shown.id, onlyWay(shown, details.lost.canPutBack));
      return nextAfter(file.id);
    },
    l: (file) => {
      onTake(file.id, null);
      return nextAfter(file.id);
    },
    n: (file) => nextAfter(file.id),
    x: () => {
      const matches = details?.matches ?? [];
      const at = matches.findIndex((m) => m.id === shown?.id);
      const next = matches[(at + 1) % Math.max(1, matches.length)];
      if (next) onShow(next.id);
      return null;
    },
    b: () => {
      other();
      return null;
    },
  };
  return { judge, open: open.length, isOpen: (fileId: string | null) => open.some((r) => r.id === fileId), nextAfter };
}
