import { Dropdown, Popconfirm } from "antd";
import { useEffect, useState } from "react";
import type { RareAction } from "./rareActions";
import css from "./row-menu.module.css";

interface Props {
  actions: readonly RareAction[];
  /** Where it opens in the window, in pixels; without it, below what it stands beside. */
  at?: { x: number; y: number };
  onClose: () => void;
}

/** A menu of rare actions, open until one is chosen; what cannot be taken back is asked once more at the same place. */
export function OpenMenu({ actions, at, onClose }: Props) {
  const [asked, setAsked] = useState<RareAction | null>(null);
  // It opens once it is there: only then has it a place on the page.
  const [isThere, setThere] = useState(false);
  useEffect(() => setThere(true), []);
  const choose = (action: RareAction) => {
    if (action.sure) setAsked(action);
    else {
      onClose();
      action.act();
    }
  };
  return (
    <Popconfirm
      open={asked !== null}
      title={asked?.sure?.question}
      description={asked?.sure?.means}
      okText={asked?.sure?.yes}
      cancelText="Cancel"
      placement="left"
      onConfirm={() => {
        onClose();
        asked?.act();
      }}
      onOpenChange={(open) => !open && onClose()}
    >
      <Dropdown
        open={isThere && asked === null}
        onOpenChange={(open, { source }) => !open && source === "trigger" && onClose()}
        autoFocus
        trigger={["click"]}
        placement={at ? "bottomLeft" : "bottomRight"}
        menu={{
          items: actions.map((action) => ({
            key: action.label,
            label: action.label,
            disabled: action.disabled ?? false,
            danger: action.sure !== undefined,
            onClick: () => choose(action),
          })),
        }}
      >
        <span className={at ? css.anchorAt : css.anchor} style={at && { left: at.x, top: at.y }} />
      </Dropdown>
    </Popconfirm>
  );
}
