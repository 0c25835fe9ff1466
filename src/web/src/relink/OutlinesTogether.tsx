import { useMemo } from "react";
import type { FileEntry } from "../api/types";
import { outlineOf } from "../listening/outline";
import { usePeaks } from "../listening/usePeaks";
import css from "./relink.module.css";

const stretches = 512;

/** The outlines of a missing file and of a found one laid over each other, both from their first sample on; what clips need is marked. */
export function OutlinesTogether({ lost, found }: { lost: FileEntry; found: FileEntry }) {
  const [was, is] = [usePeaks(lost, stretches), usePeaks(found, stretches)];
  const longest = Math.max(lost.seconds ?? 0, found.seconds ?? 0);
  const share = (file: FileEntry) => (longest > 0 && file.seconds ? file.seconds / longest : 0);
  const [lostPath, foundPath] = [useOutline(was), useOutline(is)];
  const rate = lost.sampleRate ?? 0;
  // Without an outline of the missing sound there is nothing to lay over the found one, which stands below by itself.
  if (!lostPath) return null;
  const words = "The outline of the missing sound, drawn as a line, over that of the found one";
  return (
    <svg className={css.outlines} viewBox="0 0 1000 100" preserveAspectRatio="none" role="img" aria-label={words}>
      <title>{words}</title>
      {lost.used.map((part) => (
        <rect
          className={css.needed}
          key={part.start}
          x={longest > 0 && rate > 0 ? (1000 * part.start) / rate / longest : 0}
          width={longest > 0 && rate > 0 ? Math.max(3, (1000 * part.length) / rate / longest) : 0}
          y="0"
          height="100"
        />
      ))}
      {foundPath && <path className={css.foundOutline} d={foundPath} transform={`scale(${share(found)} 1)`} />}
      <path className={css.lostOutline} d={lostPath} transform={`scale(${share(lost)} 1)`} />
      {found.seconds !== null && longest > found.seconds && (
        <line className={css.endsHere} x1={1000 * share(found)} x2={1000 * share(found)} y1="0" y2="100" />
      )}
    </svg>
  );
}

const useOutline = (peaks: Int8Array | null) =>
  useMemo(() => (peaks && peaks.length > 1 ? outlineOf(peaks) : null), [peaks]);
