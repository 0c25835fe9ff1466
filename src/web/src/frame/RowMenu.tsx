import { Button } from "antd";
import { lazy, Suspense, useEffect, useEffectEvent, useRef, useState } from "react";
import { isMenuKey } from "./keys";
import type { RareAction } from "./rareActions";
import css from "./row-menu.module.css";

// Rarely opened, so that it comes when it is: the first page is there sooner without it.
const OpenMenu = lazy(() => import("./OpenMenu").then((m) => ({ default: m.OpenMenu })));

/**
 * The menu at the end of a row, with all that is rarely done with what stands in it; also by the other mouse button anywhere on the row, by
 * the menu key and by Shift + F10. On a link the other button means the browser's own menu.
 * @param props.row What the row is, as a selector.
 */
export function RowMenu({ of, row, actions }: { of: string; row: string; actions: readonly RareAction[] }) {
  const button = useRef<HTMLButtonElement>(null);
  const [isOpen, setOpen] = useState(false);
  const onContextMenu = useEffectEvent((e: MouseEvent) => {
    const isByMouse = e.button === 2;
    if (isByMouse && (e.target as HTMLElement).closest("a, input")) return;
    e.preventDefault();
    setOpen(true);
  });
  useEffect(() => {
    const place = button.current?.closest<HTMLElement>(row);
    const open = (e: MouseEvent) => onContextMenu(e);
    const key = (e: KeyboardEvent) => {
      if (!isMenuKey(e)) return;
      e.preventDefault();
      setOpen(true);
    };
    place?.addEventListener("contextmenu", open);
    place?.addEventListener("keydown", key);
    return () => {
      place?.removeEventListener("contextmenu", open);
      place?.removeEventListener("keydown", key);
    };
  }, [row]);
  return (
    <span className={css.rowMenu}>
      <Button
        ref={button}
        size="small"
        type="text"
        aria-label={`More for ${of}`}
        title="More"
        aria-haspopup="menu"
        aria-expanded={isOpen}
        onClick={() => setOpen(true)}
      >
        ⋯
      </Button>
      {isOpen && (
        <Suspense>
          <OpenMenu
            actions={actions}
            onClose={() => {
              setOpen(false);
              button.current?.focus();
            }}
          />
        </Suspense>
      )}
    </span>
  );
}
