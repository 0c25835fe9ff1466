import { Button } from "antd";
import { useEffect, useRef, useState } from "react";
import type { FileEntry } from "../api/types";
import { useSessionId } from "../frame/sessionContext";
import { duration } from "../words";
import { CoverageStrip } from "./CoverageStrip";
import css from "./listening.module.css";
import { usePlayer } from "./player";
import { isAudible } from "./usePeaks";

const mostZoom = 16;

/**
 * The sound of a file, large: seen, heard, and gone to by a click or by the arrow keys. While its partner is heard it goes on from the
 * same place, so that the ear can compare.
 */
export function Listen({ file, partner }: { file: FileEntry; partner?: FileEntry }) {
  const id = useSessionId();
  const player = usePlayer();
  const isHere = player.fileId === file.id;
  const at = isHere ? player.at : 0;
  const length = file.seconds ?? 0;
  const [zoom, setZoom] = useState(1);
  const scroll = useRef<HTMLDivElement>(null);
  // What plays, or where somebody went, stays in sight.
  const share = length > 0 ? at / length : 0;
  useEffect(() => {
    const box = scroll.current;
    if (!box || zoom === 1) return;
    const x = share * box.scrollWidth;
    if (x < box.scrollLeft || x > box.scrollLeft + box.clientWidth) box.scrollLeft = x - box.clientWidth / 4;
  }, [share, zoom]);
  if (!isAudible(file) || id === "" || length === 0) return <CoverageStrip file={file} tall />;
  return (
    <div className={css.listen}>
      <div className={css.listenScroll} ref={scroll}>
        <div className={css.listenWave} style={{ width: `${100 * zoom}%` }}>
          <CoverageStrip file={file} tall fine={zoom > 1} />
          <span className={css.playhead} style={{ left: `${(100 * at) / length}%` }} aria-hidden="true" />
          <input
            type="range"
            aria-label={`Place in ${file.name}`}
            min={0}
            max={length}
            step={Math.min(1, length / 20)}
            value={at}
            onChange={(e) => player.seek(id, file, Number(e.target.value))}
            onKeyDown={(e) => {
              if (e.key !== " ") return;
              e.preventDefault();
              player.toggle(id, file);
            }}
          />
        </div>
      </div>
      <div className={css.listenTools}>
        <Button
          size="small"
          onClick={() => {
            if (partner && player.fileId === partner.id && player.playing) {
              player.seek(id, file, player.at);
              player.play(id, file);
            } else player.toggle(id, file);
          }}
        >
          {isHere && player.playing ? "Pause" : "Listen"}
        </Button>
        <span className="mono quiet">{`${duration(at)} / ${duration(length)}`}</span>
        <span className={css.zoom}>
          <Button
            size="small"
            type="text"
            aria-label="Show more of the sound"
            disabled={zoom === 1}
            onClick={() => setZoom(zoom / 2)}
          >
            −
          </Button>
          <span className="mono quiet" role="status">{`${zoom}×`}</span>
          <Button
            size="small"
            type="text"
            aria-label="Show the sound larger"
            disabled={zoom === mostZoom}
            onClick={() => setZoom(zoom * 2)}
          >
            +
          </Button>
        </span>
      </div>
      {isHere && player.error && (
        <p className="trouble" role="alert">
          {player.error}
        </p>
      )}
    </div>
  );
}
