import type { ReactNode } from "react";
import type { Weight } from "../api/types";
import { Weighbridge } from "../weighbridge/Weighbridge";
import { FileList, type Marks } from "./FileList";
import { ActiveFile } from "./FileTag";
import css from "./files-with-tag.module.css";
import type { SessionFiles } from "./useFiles";

interface Props {
  rows: SessionFiles;
  /** The session's bytes, whose parts narrow the list; without them there is no weighbridge. */
  weights?: readonly Weight[];
  /** Stands between the weighbridge and the list. */
  children?: ReactNode;
  marks?: Marks | null;
  empty: string;
}

/** The files of a session as every station shows them: weighed, listed, and the chosen one with its tag beside the list. */
export function FilesWithTag({ rows, weights, children, marks, empty }: Props) {
  return (
    <>
      {weights && <Weighbridge weights={weights} chosen={rows.segments} onChoose={rows.setSegments} />}
      {children}
      <WithTag tag={<ActiveFile rows={rows} />}>
        <FileList rows={rows} marks={marks ?? null} active={rows.active} onActive={rows.setActive} empty={empty} />
      </WithTag>
    </>
  );
}

/** A list and, at its right or where it is narrow below it, what belongs to the chosen row. */
export function WithTag({ tag, children }: { tag: ReactNode; children: ReactNode }) {
  return (
    <div className={css.withTag}>
      {children}
      {tag}
    </div>
  );
}
