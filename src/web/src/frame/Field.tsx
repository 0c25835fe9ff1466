import { type ReactNode, useId } from "react";

/** A field with its label above it. The field gets the identity that the label points at. */
export function Field({ label, children }: { label: string; children: (id: string) => ReactNode }) {
  const id = useId();
  return (
    <div className="field">
      <label htmlFor={id}>{label}</label>
      {children(id)}
    </div>
  );
}
