import { useId, useMemo } from "react";
import type { FileEntry } from "../api/types";
import { duration } from "../words";
import css from "./listening.module.css";
import { isOfCatalogue } from "./mediaSource";
import { outlineOf } from "./outline";
import { useIsSettled, usePeaks } from "./usePeaks";

const smallStretches = 128;
const tallStretches = 512;
const fineStretches = 2048;

/** A file of which it is said what trimming would keep of it, in samples. */
export interface TrimmableFile extends FileEntry {
  kept?: FileEntry["used"];
}

interface Props {
  file: TrimmableFile;
  tall?: boolean;
  /** With all the stretches that there are, for looking closely. */
  fine?: boolean;
}

/** The length of a file as a strip with the outline of its sound; the parts in use stand out. */
export function CoverageStrip({ file, tall = false, fine = false }: Props) {
  const isSettled = useIsSettled(file, smallStretches);
  // The tall one is that of the chosen file: nobody scrolls past it.
  return isSettled || tall ? (
    <Outlined file={file} tall={tall} fine={fine} />
  ) : (
    <Strip file={file} tall={tall} outline={null} />
  );
}

function Outlined({ file, tall = false, fine = false }: Props) {
  const peaks = usePeaks(file, fine ? fineStretches : tall ? tallStretches : smallStretches);
  const outline = useMemo(() => (peaks && peaks.length > 1 ? outlineOf(peaks) : null), [peaks]);
  return <Strip file={file} tall={tall} outline={outline} />;
}

function Strip({ file, tall = false, outline }: Props & { outline: string | null }) {
  const clip = useId();
  const length = file.lengthSamples;
  if (!length || !file.sampleRate)
    return <span className={`${css.coverage} ${tall ? css.tall : ""}`} aria-hidden="true" />;
  const used = file.used.reduce((sum, part) => sum + part.length, 0);
  const words = isOfCatalogue(file)
    ? `the sound, ${duration(length / file.sampleRate)}`
    : used === 0
      ? "no part is in use"
      : `${duration(used / file.sampleRate)} of ${duration(length / file.sampleRate)} in use`;
  const parts = file.used.map((part) => (
    <rect
      className={css.part}
      key={part.start}
      x={(1000 * part.start) / length}
      width={Math.max(4, (1000 * part.length) / length)}
      y={outline ? 0 : 12}
      height={outline ? 100 : 76}
    />
  ));
  return (
    <svg
      className={`${css.coverage} ${tall ? css.tall : ""}`}
      viewBox="0 0 1000 100"
      preserveAspectRatio="none"
      role="img"
      aria-label={words}
    >
      <title>{words}</title>
      {outline ? (
        <>
          <clipPath id={clip}>{parts}</clipPath>
          <g className={css.ground}>{parts}</g>
          <path className={css.outline} d={outline} />
          <path className={`${css.outline} ${css.inUse}`} d={outline} clipPath={`url(#${clip})`} />
        </>
      ) : (
        <>
          <rect className={css.whole} x="0" y="46" width="1000" height="8" />
          {parts}
        </>
      )}
      {file.kept && <Trimmed kept={file.kept} used={file.used} length={length} id={clip} />}
    </svg>
  );
}

interface TrimmedProps {
  kept: FileEntry["used"];
  used: FileEntry["used"];
  length: number;
  id: string;
}

/** What lies between parts, from the start to the end of the file. */
function between(parts: FileEntry["used"], from: number, to: number) {
  const gaps: { start: number; length: number }[] = [];
  let at = from;
  for (const part of parts) {
    if (part.start + part.length <= from || part.start >= to) continue;
    if (part.start > at) gaps.push({ start: at, length: part.start - at });
    at = Math.max(at, part.start + part.length);
  }
  if (to > at) gaps.push({ start: at, length: to - at });
  return gaps;
}

/** Parts that go are struck, handles hatched. */
function Trimmed({ kept, used, length, id }: TrimmedProps) {
  const scale = 1000 / length;
  const gone = between(kept, 0, length);
  const handles = kept.flatMap((k) => between(used, k.start, k.start + k.length));
  return (
    <>
      <defs>
        <pattern id={`${id}hatch`} width="14" height="14" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <rect className={css.hatch} width="4" height="14" />
        </pattern>
      </defs>
      {handles.map((h) => (
        <rect key={h.start} x={h.start * scale} width={h.length * scale} y="0" height="100" fill={`url(#${id}hatch)`} />
      ))}
      {gone.map((g) => (
        <g key={g.start}>
          <rect className={css.gone} x={g.start * scale} width={g.length * scale} y="0" height="100" />
          <line
            className={css.strike}
            x1={g.start * scale}
            x2={(g.start + g.length) * scale}
            y1="50"
            y2="50"
            vectorEffect="non-scaling-stroke"
          />
        </g>
      ))}
    </>
  );
}
