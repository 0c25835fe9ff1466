import { Button, Checkbox } from "antd";
import { duration } from "../words";
import css from "./listening.module.css";
import { usePlayer } from "./player";

/** What is being listened to, on every page: pause, stop, how loud, over and over, and whether moving in a list plays. */
export function SoundInHand() {
  const player = usePlayer();
  const { file, sessionId, playing, at, volume, loops, follows } = player;
  if (!file) return null;
  return (
    <section className={css.soundInHand} aria-label="Listening">
      <Button size="small" onClick={() => player.toggle(sessionId, file)}>
        {playing ? "Pause" : "Listen"}
      </Button>
      <span className={css.soundName} title={file.name}>
        {file.name}
      </span>
      <span className="mono quiet">{duration(at)}</span>
      <input
        type="range"
        aria-label="Volume"
        title={`Volume ${Math.round(100 * volume)} %`}
        min={0}
        max={1}
        step={0.05}
        value={volume}
        onChange={(e) => player.setVolume(Number(e.target.value))}
      />
      <Checkbox checked={loops} onChange={(e) => player.setLoops(e.target.checked)}>
        loop
      </Checkbox>
      <Checkbox
        checked={follows}
        title="While something plays, moving in a list plays what you come to"
        onChange={(e) => player.setFollows(e.target.checked)}
      >
        follow
      </Checkbox>
      <Button size="small" type="text" onClick={player.stop}>
        Stop
      </Button>
    </section>
  );
}
