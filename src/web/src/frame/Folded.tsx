import { Button } from "antd";
import type { ReactNode } from "react";
import css from "./folded.module.css";
import { useRemembered } from "./kept";

interface Props {
  /** Under which it is remembered whether it is open. */
  name: string;
  /** What was chosen, in one line. */
  says: string;
  children: ReactNode;
}

/** Choices that are made once: a line that says what they are, and opens. */
export function Folded({ name, says, children }: Props) {
  const [isOpen, setOpen] = useRemembered(`open ${name}`, false);
  return (
    <span className={css.folded}>
      {isOpen ? children : <span>{says}</span>}
      <Button size="small" type="text" aria-expanded={isOpen} onClick={() => setOpen(!isOpen)}>
        {isOpen ? "Fold" : "Change"}
      </Button>
    </span>
  );
}
