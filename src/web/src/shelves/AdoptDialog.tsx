import { Alert, Modal } from "antd";
import { useState } from "react";
import { useNavigate } from "react-router";
import { useAdopt } from "../api/queries";
import { type FolderChoice, FolderPicker } from "./FolderPicker";

/** Takes a folder that exists as a session. Nothing in it is changed. */
export function AdoptDialog({ open, onClose }: { open: boolean; onClose: () => void }) {
  const [choice, setChoice] = useState<FolderChoice>({ shelfId: undefined, path: "" });
  const adopt = useAdopt();
  const navigate = useNavigate();
  const close = () => {
    adopt.reset();
    onClose();
  };
  return (
    <Modal
      title="Adopt a folder"
      open={open}
      onCancel={close}
      okText="Adopt this folder"
      cancelText="Leave it"
      okButtonProps={{ disabled: !choice.shelfId || !choice.path, loading: adopt.isPending }}
      onOk={() =>
        adopt.mutate(
          { shelfId: choice.shelfId ?? "", path: choice.path },
          {
            onSuccess: (session) => {
              close();
              navigate(`/sessions/${session.id}`);
            },
          },
        )
      }
    >
      <p>Go to the session folder, the one that holds the document. Neat Crate only looks; nothing in it is changed.</p>
      <FolderPicker label="Session folder" value={choice} onChange={setChoice} />
      {adopt.error && <Alert type="error" title={adopt.error.message} />}
    </Modal>
  );
}
