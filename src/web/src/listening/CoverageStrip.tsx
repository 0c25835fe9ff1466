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

interface Props {
  file: FileEntry;
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
    </svg>
  );
}
