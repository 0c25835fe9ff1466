import { Input } from "antd";
import { useState } from "react";
import { useDocumentKinds, useSayDocumentKind } from "../api/documentKinds";
import { Act } from "../frame/Act";
import { Choices } from "../frame/Choices";
import css from "./settings.module.css";

type Said = "document" | "none";

/** What files are documents: where the guess is wrong, it is said here, for every session. */
export function DocumentKinds() {
  const kinds = useDocumentKinds();
  const say = useSayDocumentKind();
  const [ending, setEnding] = useState("");
  const [said, setSaid] = useState<Said>("none");
  const kind = ending.trim() === "" ? "" : `.${ending.trim().replace(/^\.+/, "")}`;
  return (
    <section aria-label="Documents of other programs">
      <h2>Documents of other programs</h2>
      <p className="quiet">
        Which files are documents is guessed by what they name. Where that is wrong, say it here: it holds for every
        session. What no document uses may be set aside, so be sure of what is none.
      </p>
      {kinds.data && kinds.data.length > 0 && (
        <ul className={css.kinds} aria-label="What was said">
          {kinds.data.map((k) => (
            <li key={k.ending}>
              <code className="path">{k.ending}</code>
              <span>{k.isDocument ? "are documents" : "are no documents"}</span>
              <Act size="small" onClick={() => say.mutate({ ending: k.ending, isDocument: null })}>
                Guess again
              </Act>
            </li>
          ))}
        </ul>
      )}
      <form
        className={css.sayKind}
        onSubmit={(e) => {
          e.preventDefault();
          if (kind !== "")
            say.mutate({ ending: kind, isDocument: said === "document" }, { onSuccess: () => setEnding("") });
        }}
      >
        <span>Files ending in</span>
        <Input
          aria-label="Ending of the names"
          placeholder=".ending"
          value={ending}
          maxLength={40}
          onChange={(e) => setEnding(e.target.value)}
        />
        <Choices<Said>
          label="What such files are"
          value={said}
          options={[
            { value: "none", label: "are no documents" },
            { value: "document", label: "are documents" },
          ]}
          onChange={setSaid}
        />
        <Act htmlType="submit" disabled={kind === ""} loading={say.isPending}>
          Say so
        </Act>
      </form>
      {say.error && (
        <p className="trouble" role="alert">
          {say.error.message}
        </p>
      )}
    </section>
  );
}
