import { Checkbox } from "antd";
import type { BundlePart, BundleParts, CrossfadeLaw } from "../api/types";
import { Choices } from "../frame/Choices";
import { count, size } from "../words";
import css from "./bundles.module.css";
import { partWord, slipLines, withPart } from "./parts";

interface Props {
  parts: BundleParts;
  chosen: readonly BundlePart[];
  onChange: (chosen: BundlePart[]) => void;
  printing: Printing;
  onPrinting: (printing: Printing) => void;
  packsSound: boolean;
  onPacksSound: (packs: boolean) => void;
}

export interface Printing {
  law: CrossfadeLaw;
  convertsRates: boolean;
}

/** What goes and what stays: a line each, with what it weighs. */
export function SlipParts({ parts, chosen, onChange, printing, onPrinting, packsSound, onPacksSound }: Props) {
  const { lines, always, total } = slipLines(parts, chosen);
  return (
    <section className={css.parts} aria-label="What goes along">
      <h2>What goes along</h2>
      <ul>
        <li>
          <span>What is played, and the document</span>
          <Weight {...always} />
        </li>
        {lines.map((line) => (
          <li key={line.part} className={line.goes ? "" : css.stays}>
            <Checkbox checked={line.goes} onChange={(e) => onChange(withPart(chosen, line.part, e.target.checked))}>
              {partWord[line.part]}
            </Checkbox>
            <Weight files={line.files} bytes={line.bytes} />
            {line.part === "PrintedTracks" && line.goes && (
              <PrintChoices printing={printing} onPrinting={onPrinting} parts={parts} />
            )}
          </li>
        ))}
        <li className={css.total}>
          <span>In all{packsSound ? ", about" : ""}</span>
          <Weight {...total} />
        </li>
      </ul>
      <Checkbox checked={packsSound} onChange={(e) => onPacksSound(e.target.checked)}>
        Pack sound without loss, as FLAC
      </Checkbox>
    </section>
  );
}

function Weight({ files, bytes }: { files: number; bytes: number }) {
  return (
    <span className={css.weight}>
      <span className="quiet">{count(files, "file")}</span>
      <span className="mono">{size(bytes)}</span>
    </span>
  );
}

function PrintChoices({ printing, onPrinting, parts }: Pick<Props, "printing" | "onPrinting" | "parts">) {
  const refused = parts.prints?.filter((p) => p.refused) ?? [];
  return (
    <div className={css.printing}>
      <Choices
        label="Crossfades"
        value={printing.law}
        options={[
          { value: "EqualGain", label: "Crossfades of equal gain" },
          { value: "EqualPower", label: "of equal power" },
        ]}
        onChange={(law) => onPrinting({ ...printing, law })}
      />
      <Checkbox
        checked={printing.convertsRates}
        onChange={(e) => onPrinting({ ...printing, convertsRates: e.target.checked })}
      >
        Convert files of other sample rates
      </Checkbox>
      {refused.length > 0 && (
        <p className="warning">
          Not printed, since a print would not sound as the track does:{" "}
          {refused.map((t) => `${t.track} (${t.notes.join("; ")})`).join(", ")}.
        </p>
      )}
    </div>
  );
}
