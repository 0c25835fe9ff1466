import { type RefObject, useEffect, useState } from "react";
import { useRemembered } from "../frame/kept";
import type { Column, ListKind } from "./columns";

/** Where a list is narrower, in CSS pixels, some columns give way. */
const narrow = 800;

/** No column is drawn narrower, in CSS pixels. */
const leastWidth = 36;

/** The columns of a list as somebody wants them, remembered for each kind of list. */
export interface Columns {
  shown: readonly Column[];
  /** The list's columns as tracks of a CSS grid. */
  template: string;
  isHidden: (column: Column) => boolean;
  hide: (column: Column, isHidden: boolean) => void;
  setWidth: (column: Column, width: number) => void;
  /** All of them in sight, as wide as at first. */
  reset: () => void;
  isChanged: boolean;
}

const standard: { widths: Record<string, number>; hidden: string[] } = { widths: {}, hidden: [] };

export function useColumns(kind: ListKind, hasMarks: boolean, list: RefObject<HTMLElement | null>): Columns {
  const [wanted, want] = useRemembered(`columns ${kind.name}`, standard);
  const [isNarrow, setNarrow] = useState(false);
  useEffect(() => {
    const element = list.current;
    if (!element) return;
    const observer = new ResizeObserver(() => setNarrow(element.clientWidth <= narrow));
    observer.observe(element);
    return () => observer.disconnect();
  }, [list]);
  // The name stays: without it nobody knows what a row is about.
  const isHidden = (column: Column) => column.key !== "name" && wanted.hidden.includes(column.key);
  const shown = kind.columns.filter((c) => !isHidden(c) && !(isNarrow && c.givesWay));
  const widthOf = (c: Column) => (wanted.widths[c.key] ? `${wanted.widths[c.key]}px` : c.width);
  return {
    shown,
    template: [...(hasMarks ? ["26px"] : []), ...shown.map(widthOf)].join(" "),
    isHidden,
    hide: (column, hidden) =>
      want({
        ...wanted,
        hidden: hidden ? [...wanted.hidden, column.key] : wanted.hidden.filter((k) => k !== column.key),
      }),
    setWidth: (column, width) =>
      want({ ...wanted, widths: { ...wanted.widths, [column.key]: Math.max(leastWidth, Math.round(width)) } }),
    reset: () => want(standard),
    isChanged: wanted.hidden.length > 0 || Object.keys(wanted.widths).length > 0,
  };
}
