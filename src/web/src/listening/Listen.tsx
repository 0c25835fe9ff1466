import { Button } from "antd";
import type { FileEntry } from "../api/types";
import { useSessionId } from "../frame/sessionContext";
import { duration } from "../words";
import { CoverageStrip } from "./CoverageStrip";
import { usePlayer } from "./player";
import { isAudible } from "./usePeaks";
import "./listening.css";

/** The sound of a file, large: seen, heard, and gone to by a click or by the arrow keys. */
export function Listen({ file }: { file: FileEntry }) {
  const id = useSessionId();
  const player = usePlayer();
  const isHere = player.fileId === file.id;
  const at = isHere ? player.at : 0;
  const length = file.seconds ?? 0;
  if (!isAudible(file) || id === "" || length === 0) return <CoverageStrip file={file} tall />;
  return (
    <div className="listen">
      <div className="listen-wave">
        <CoverageStrip file={file} tall />
        <span className="playhead" style={{ left: `${(100 * at) / length}%` }} aria-hidden="true" />
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
      <div className="listen-tools">
        <Button size="small" onClick={() => player.toggle(id, file)}>
          {isHere && player.playing ? "Pause" : "Listen"}
        </Button>
        <span className="mono quiet">{`${duration(at)} / ${duration(length)}`}</span>
        <small className="quiet">space</small>
      </div>
      {isHere && player.error && (
        <p className="trouble" role="alert">
          {player.error}
        </p>
      )}
    </div>
  );
}
