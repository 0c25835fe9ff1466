import { useEffect, useEffectEvent, useState } from "react";
import { useNavigate } from "react-router";
import { useIsConnected } from "../api/connection";
import { draft } from "../frame/kept";
import { useTell } from "../frame/Tell";
import css from "./copy-in.module.css";
import { droppedFiles } from "./dropped";
import { useUploads } from "./useUploads";

interface Props {
  sessionId: string;
  session: string;
  /** Told before what was dropped arrives. */
  onDrop: () => void;
}

/** Files of the user's own computer can be dropped at every station: they arrive at Copy in, and wait there for a plan. */
export function DropAnywhere({ sessionId, session, onDrop }: Props) {
  const [isOver, setIsOver] = useState(false);
  const uploads = useUploads(sessionId);
  const navigate = useNavigate();
  const tell = useTell();
  const isConnected = useIsConnected();
  const take = useEffectEvent(async (data: DataTransfer | null) => {
    setIsOver(false);
    if (!data?.types.includes("Files")) return;
    if (!isConnected) {
      tell.error("Nothing was taken in: Neat Crate does not answer. Drop it once more when it does.");
      return;
    }
    try {
      const files = await droppedFiles(data);
      if (files.length === 0) {
        tell.info("There was no file in it.");
        return;
      }
      onDrop();
      draft(sessionId, "copy-in something new", true);
      navigate(`/sessions/${sessionId}/copy-in`);
      uploads.add(files);
    } catch (e) {
      tell.error(e instanceof Error ? e.message : "What was dropped cannot be read. Nothing was taken in.", 8);
    }
  });
  useEffect(() => {
    const drop = (e: DragEvent) => void take(e.dataTransfer);
    const over = (e: DragEvent) => setIsOver(e.dataTransfer?.types.includes("Files") ?? false);
    const leave = (e: DragEvent) => e.relatedTarget === null && setIsOver(false);
    window.addEventListener("drop", drop);
    window.addEventListener("dragover", over);
    window.addEventListener("dragleave", leave);
    return () => {
      window.removeEventListener("drop", drop);
      window.removeEventListener("dragover", over);
      window.removeEventListener("dragleave", leave);
    };
  }, []);
  return isOver ? (
    <div className={css.dropOver} role="status">
      <p>{`Drop to bring them to “${session}”. They wait at Copy in until you apply the plan.`}</p>
    </div>
  ) : null;
}
