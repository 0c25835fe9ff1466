import { Breadcrumb, Select } from "antd";
import { useFolders, useShelves } from "../api/queries";
import { size } from "../words";
import css from "./shelves.module.css";

export interface FolderChoice {
  shelfId: string | undefined;
  path: string;
}

interface Props {
  value: FolderChoice;
  onChange: (choice: FolderChoice) => void;
  label: string;
}

/** Chooses a folder on a connected shelf, one level at a time. */
export function FolderPicker({ value, onChange, label }: Props) {
  const shelves = useShelves();
  const folders = useFolders(value.shelfId, value.path);
  const parts = value.path ? value.path.split("/") : [];
  const shelf = shelves.data?.find((s) => s.id === value.shelfId);
  return (
    <fieldset className={css.folderPicker}>
      <legend>{label}</legend>
      <Select
        aria-label="Shelf"
        placeholder="Choose a shelf"
        value={value.shelfId}
        onChange={(shelfId) => onChange({ shelfId, path: "" })}
        options={(shelves.data ?? []).map((s) => ({
          value: s.id,
          title: s.name,
          label: `${s.name}${s.connected ? ` · ${size(s.freeBytes ?? 0)} free` : " · away"}`,
          disabled: !s.connected,
        }))}
      />
      {shelf && (
        <div className={css.folders}>
          <Breadcrumb
            items={[
              {
                title: (
                  <button type="button" onClick={() => onChange({ ...value, path: "" })}>
                    {shelf.name}
                  </button>
                ),
              },
              ...parts.map((part, i) => ({
                title: (
                  <button type="button" onClick={() => onChange({ ...value, path: parts.slice(0, i + 1).join("/") })}>
                    {part}
                  </button>
                ),
              })),
            ]}
          />
          {folders.error && <p className="trouble">{folders.error.message}</p>}
          <ul>
            {folders.data?.map((folder) => (
              <li key={folder.path}>
                <button type="button" onClick={() => onChange({ ...value, path: folder.path })}>
                  {folder.name}
                  {folder.holdsSession && <small>session</small>}
                </button>
              </li>
            ))}
            {folders.data?.length === 0 && <li className="quiet">No folders in here.</li>}
          </ul>
        </div>
      )}
    </fieldset>
  );
}
