import { useId } from "react";
import css from "./choices.module.css";

interface Option<Value extends string> {
  value: Value;
  label: string;
  disabled?: boolean;
}

interface Props<Value extends string> {
  label: string;
  value: Value;
  options: readonly Option<Value>[];
  onChange: (value: Value) => void;
}

/** One of a few, all in sight: radio buttons, of which the arrows choose. */
export function Choices<Value extends string>({ label, value, options, onChange }: Props<Value>) {
  const name = useId();
  return (
    <fieldset className={css.choices}>
      <legend className="unseen">{label}</legend>
      {options.map((o) => (
        <label key={o.value} className={o.value === value ? css.chosen : ""}>
          <input
            type="radio"
            name={name}
            checked={o.value === value}
            disabled={o.disabled}
            onChange={() => onChange(o.value)}
          />
          {o.label}
        </label>
      ))}
    </fieldset>
  );
}

/** Sheets of one page, of which one is in sight (ARIA Authoring Practices, "Tabs"). */
export function Sheets<Value extends string>({ label, value, options, onChange }: Props<Value>) {
  const id = useId();
  const move = (by: number) => {
    const at = options.findIndex((o) => o.value === value);
    const next = options[(at + by + options.length) % options.length];
    if (!next) return;
    onChange(next.value);
    document.getElementById(`${id}${next.value}`)?.focus();
  };
  const steps: Record<string, number> = { ArrowRight: 1, ArrowLeft: -1 };
  return (
    <div className={css.choices} role="tablist" aria-label={label}>
      {options.map((o) => (
        <button
          type="button"
          role="tab"
          key={o.value}
          id={`${id}${o.value}`}
          className={o.value === value ? css.chosen : ""}
          aria-selected={o.value === value}
          tabIndex={o.value === value ? 0 : -1}
          onClick={() => onChange(o.value)}
          onKeyDown={(e) => {
            const step = steps[e.key];
            if (step) move(step);
          }}
        >
          {o.label}
        </button>
      ))}
    </div>
  );
}
