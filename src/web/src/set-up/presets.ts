import type { NamePart, NamePartKind, Preset } from "../api/types";

/** What names one session, and no other. */
const ofOneSession: readonly NamePartKind[] = ["Song", "WorkingTitle", "Version"];

/** The choices as a preset keeps them: without what names this one session. */
export const asPreset = (choices: Preset): Preset => ({
  ...choices,
  nameParts: choices.nameParts.map((p) => (ofOneSession.includes(p.kind) ? { ...p, text: "" } : p)),
});

/** Which of the parts of its kind one is. */
const numberOf = (parts: readonly NamePart[], at: number) =>
  parts.slice(0, at).filter((p) => p.kind === parts[at]?.kind).length;

/** A preset with what was typed already: choosing one changes how a session is set up, not what it is called. */
export const withTyped = (preset: Preset, choices: Preset): Preset => ({
  ...preset,
  nameParts: preset.nameParts.map((part, at) => {
    if (part.kind === "Date") return part;
    const number = numberOf(preset.nameParts, at);
    const typed = choices.nameParts.filter((p) => p.kind === part.kind)[number]?.text;
    return typed ? { ...part, text: typed } : part;
  }),
});
