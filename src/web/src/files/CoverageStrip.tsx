import type { FileEntry } from "../api/types";
import { duration } from "../words";

/** The length of a file as a strip, the parts in use filled. */
export function CoverageStrip({ file, tall = false }: { file: FileEntry; tall?: boolean }) {
  const length = file.lengthSamples;
  if (!length || !file.sampleRate) return <span className="coverage none" aria-hidden="true" />;
  const used = file.used.reduce((sum, part) => sum + part.length, 0);
  const words =
    used === 0
      ? "no part is in use"
      : `${duration(used / file.sampleRate)} of ${duration(length / file.sampleRate)} in use`;
  return (
    <svg
      className={`coverage ${tall ? "tall" : ""}`}
      viewBox="0 0 1000 100"
      preserveAspectRatio="none"
      role="img"
      aria-label={words}
    >
      <title>{words}</title>
      <rect className="whole" x="0" y="46" width="1000" height="8" />
      {file.used.map((part) => (
        <rect
          className="part"
          key={part.start}
          x={(1000 * part.start) / length}
          width={Math.max(4, (1000 * part.length) / length)}
          y="12"
          height="76"
        />
      ))}
    </svg>
  );
}
