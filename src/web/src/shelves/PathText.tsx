import { Button } from "antd";
import { useShelves } from "../api/queries";
import { useCopyPath } from "../frame/copyPath";
import css from "./shelves.module.css";

/** Says where something is: the shelf and the folders on it, which is what people know; the machine's own path where it is on none. */
export function usePlaceText(): (path: string) => string {
  const shelves = useShelves().data ?? [];
  return (path) => {
    const [shelf] = shelves
      .filter((s) => path === s.root || path.startsWith(`${s.root}/`))
      .toSorted((a, b) => b.root.length - a.root.length);
    return shelf ? [shelf.name, ...path.slice(shelf.root.length).split("/").filter(Boolean)].join(" / ") : path;
  };
}

interface Props {
  path: string;
  /** For the place of a shelf itself: only its folder is named, and its row has a menu of its own. */
  isShelf?: boolean;
}

/** A place by its shelf and folders; the machine's path is shown by hovering, and copied by the button. */
export function PathText({ path, isShelf = false }: Props) {
  const placeOf = usePlaceText();
  const textOf = (p: string) => (isShelf ? `… / ${p.split("/").filter(Boolean).slice(-1)}` : placeOf(p));
  const copy = useCopyPath();
  return (
    <span className={css.pathText}>
      <span className="path" title={path}>
        {textOf(path)}
      </span>
      {!isShelf && (
        <Button size="small" type="text" onClick={() => void copy(path)} title={path}>
          Copy path
        </Button>
      )}
    </span>
  );
}
