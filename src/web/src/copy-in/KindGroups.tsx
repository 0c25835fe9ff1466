import type { CopyInWay } from "../api/types";
import { ActBox } from "../frame/ActBox";
import { count, size } from "../words";
import css from "./copy-in.module.css";
import { kindWord, withKind } from "./kinds";
import { useCopyKinds } from "./queries";

interface Props {
  id: string;
  way: CopyInWay;
  /** Another text where anything outside is otherwise. */
  fingerprint: string;
  onChange: (way: CopyInWay) => void;
}

/** What is copied in by kind, with its weight: what stays out, here and in bundles, the session depends on. */
export function KindGroups({ id, way, fingerprint, onChange }: Props) {
  const kinds = useCopyKinds(id, fingerprint).data ?? [];
  const out = way.leftOutKinds ?? [];
  const shown = kinds.filter((k) => k.files > 0 || out.includes(k.kind));
  // Of one kind alone there is nothing to choose between.
  if (shown.length < 2 && out.length === 0) return null;
  return (
    <fieldset className={css.kinds}>
      <legend className="quiet">By kind, here and in bundles</legend>
      {shown.map(({ kind, files, bytes }) => (
        <ActBox
          key={kind}
          checked={!out.includes(kind)}
          onChange={(e) => onChange({ ...way, leftOutKinds: withKind(out, kind, e.target.checked) })}
        >
          {kindWord[kind]} <span className="mono quiet">{`${count(files, "file")}, ${size(bytes)}`}</span>
        </ActBox>
      ))}
    </fieldset>
  );
}
