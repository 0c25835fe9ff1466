import { Checkbox } from "antd";
import type { CopyKind } from "../api/types";
import { copyKinds, kindWord, withKind } from "../copy-in/kinds";
import css from "./set-up.module.css";

interface Props {
  /** Kinds that stay out. */
  out: readonly CopyKind[];
  onChange: (out: CopyKind[]) => void;
}

/** Which kinds a new session copies in and bundles, until it is chosen otherwise in it. */
export function KindsCopiedIn({ out, onChange }: Props) {
  return (
    <fieldset className={css.kinds}>
      <legend>Copied in, and bundled</legend>
      {copyKinds.map((kind) => (
        <Checkbox
          key={kind}
          checked={!out.includes(kind)}
          onChange={(e) => onChange(withKind(out, kind, e.target.checked))}
        >
          {kindWord[kind]}
        </Checkbox>
      ))}
      {out.length > 0 && <p className="quiet">What stays out, the session depends on: its packing slip names it.</p>}
    </fieldset>
  );
}
