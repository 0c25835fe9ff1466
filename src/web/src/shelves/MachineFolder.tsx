import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Button, Input } from "antd";
import { useState } from "react";
import { answer, api } from "../api/client";
import css from "./shelves.module.css";

interface Props {
  /** Given by the form. */
  id?: string;
  value?: string;
  onChange?: (path: string) => void;
}

/** A folder of this machine, typed as its whole path or gone to level by level. */
export function MachineFolder({ id, value = "", onChange }: Props) {
  const [isOpen, setOpen] = useState(false);
  return (
    <div className={css.machineFolder}>
      <span className={css.machinePath}>
        <Input
          {...(id && { id })}
          className="mono"
          placeholder="whole path, from the first slash"
          value={value}
          onChange={(e) => onChange?.(e.target.value)}
        />
        <Button aria-expanded={isOpen} onClick={() => setOpen(!isOpen)}>
          Browse
        </Button>
      </span>
      {isOpen && <Folders path={value} onGo={(path) => onChange?.(path)} />}
    </div>
  );
}

function Folders({ path, onGo }: { path: string; onGo: (path: string) => void }) {
  const folders = useQuery({
    queryKey: ["machine-folders", path],
    placeholderData: keepPreviousData,
    retry: false,
    queryFn: () => answer(api.GET("/api/machine/folders", { params: { query: path === "" ? {} : { path } } })),
  });
  const { data } = folders;
  return (
    <section className={css.folders} aria-label="Folders of this machine">
      {folders.error && <p className="trouble">{folders.error.message}</p>}
      <ul>
        {(data?.path || folders.error) && (
          <li>
            <button type="button" onClick={() => onGo(data?.above ?? "")}>
              ↑ one level up
            </button>
          </li>
        )}
        {data?.folders.map((folder) => (
          <li key={folder.path}>
            <button type="button" onClick={() => onGo(folder.path)}>
              {folder.name}
              {folder.holdsSession && <small>session</small>}
            </button>
          </li>
        ))}
        {data?.folders.length === 0 && <li className="quiet">No folders in here.</li>}
      </ul>
    </section>
  );
}
