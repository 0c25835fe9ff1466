import { Button } from "antd";
import { useNavigate } from "react-router";
import { useBackUpMany } from "../api/queries";
import type { ManyWork, SessionLabel } from "../api/types";
import { Act } from "../frame/Act";
import { useTell } from "../frame/Tell";
import { count, size } from "../words";
import { tellBegun } from "./backupsBegun";
import css from "./loading-bay.module.css";

interface Props {
  chosen: readonly SessionLabel[];
  /** Those in the list. */
  shown: readonly SessionLabel[];
  pick: (ids: readonly string[]) => void;
  done: () => void;
}

/** What can be done with several sessions at once: a piece of work for each. */
export function Chosen({ chosen, shown, pick, done }: Props) {
  const backUp = useBackUpMany();
  const tell = useTell();
  const navigate = useNavigate();
  const together = (work: ManyWork) => navigate("/many", { state: { ids: chosen.map((s) => s.id), work } });
  return (
    <section className={css.chosen} aria-label="Chosen sessions">
      <p role="status">
        {chosen.length === 0
          ? "Tick the sessions that you mean."
          : `${count(chosen.length, "session")}, ${size(chosen.reduce((sum, s) => sum + s.bytes, 0))}`}
      </p>
      <Button size="small" onClick={() => pick(shown.map((s) => s.id))}>
        {`Tick all ${shown.length}`}
      </Button>
      <Button size="small" disabled={chosen.length === 0} onClick={() => pick([])}>
        Tick none
      </Button>
      <Button size="small" disabled={chosen.length === 0} onClick={() => together("CopyIn")}>
        Copy in
      </Button>
      <Button size="small" disabled={chosen.length === 0} onClick={() => together("Relink")}>
        Relink
      </Button>
      <Act
        type="primary"
        disabled={chosen.length === 0}
        loading={backUp.isPending}
        onClick={() =>
          backUp.mutate(
            chosen.map((s) => s.id),
            {
              onError: (e) => tell.error(e.message),
              onSuccess: (begun) => {
                tellBegun(tell, begun);
                if (begun.jobs.length + begun.without.length === 0)
                  tell.success("All of them are being backed up already.");
                done();
              },
            },
          )
        }
      >
        {chosen.length === 0 ? "Full backup" : `Full backup of ${count(chosen.length, "session")}`}
      </Act>
    </section>
  );
}
