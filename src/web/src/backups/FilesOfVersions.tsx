import { Button, Input } from "antd";
import { useDeferredValue } from "react";
import { Field } from "../frame/Field";
import { useDraft } from "../frame/kept";
import { count } from "../words";
import css from "./backups.module.css";
import { useFilesOfVersions } from "./queries";
import { savedAt } from "./words";

interface Props {
  id: string;
  /** Shows a version in the logbook. */
  onShow: (key: string) => void;
}

/** Asks all versions for a file by its name, also for one that nothing in the session knows any more. */
export function FilesOfVersions({ id, onShow }: Props) {
  const [text, setText] = useDraft("backups file asked", "");
  const name = useDeferredValue(text.trim());
  const found = useFilesOfVersions(id, name);
  return (
    <section className={css.filesOfVersions} aria-label="Files of all versions">
      <Field label="Find when a file was last used">
        {(field) => (
          <Input
            id={field}
            allowClear
            maxLength={255}
            placeholder="Part of its name, also of one that is long gone"
            value={text}
            onChange={(e) => setText(e.target.value)}
          />
        )}
      </Field>
      {name !== "" && (
        <div role="status">
          {found.error && <p className="trouble">{found.error.message}</p>}
          {found.isLoading && <p className="quiet">Looking through all versions.</p>}
          {found.data?.total === 0 && <p className="quiet">No version that can be read plays or holds such a file.</p>}
          {found.data && found.data.total > 0 && (
            <>
              <ul>
                {found.data.files.map(
                  ({ name: file, place, history: { sentence, lastUsed: used, lastThere: there } }) => (
                    <li key={place} className={css.fileOfVersions}>
                      <div>
                        <p>
                          <strong>{file}</strong> <span className="quiet mono">{place}</span>
                        </p>
                        <p>{sentence}</p>
                      </div>
                      <div>
                        {used && (
                          <Button size="small" onClick={() => onShow(used.key)}>
                            Last that plays it: {savedAt(used)}
                          </Button>
                        )}
                        {there && there.key !== used?.key && (
                          <Button size="small" onClick={() => onShow(there.key)}>
                            Last that holds it: {savedAt(there)}
                          </Button>
                        )}
                      </div>
                    </li>
                  ),
                )}
              </ul>
              {found.data.total > found.data.files.length && (
                <p className="quiet">
                  {count(found.data.total - found.data.files.length, "more file")}: write more of the name.
                </p>
              )}
            </>
          )}
        </div>
      )}
    </section>
  );
}
