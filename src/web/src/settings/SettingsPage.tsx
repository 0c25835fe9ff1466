import { Alert, Button } from "antd";
import type { BackupChoice } from "../api/types";
import { useChooseStandardBackups, useStandardBackups } from "../backups/queries";
import { FullBackupRules, KeptInSession, ThinningRules } from "../backups/RuleFields";
import { Choices } from "../frame/Choices";
import { NumberKeys } from "../frame/NumberKeys";
import { Page } from "../frame/Page";
import { useTell } from "../frame/Tell";
import { PageTitle } from "../jobs/PageTitle";
import { SystemNotices } from "../jobs/SystemNotices";
import { FolderPicker } from "../shelves/FolderPicker";
import { useUsualPlace } from "../shelves/usualPlace";
import { type Room, useTheme } from "../theme/useTheme";
import { DocumentKinds } from "./DocumentKinds";
import css from "./settings.module.css";

const rooms: readonly { value: Room; label: string }[] = [
  { value: "day", label: "Day" },
  { value: "night", label: "Night" },
  { value: "system", label: "As the system" },
];

/** What holds for every session, and how this browser shows it. */
export function SettingsPage() {
  const { choice, choose } = useTheme();
  const [place, setPlace] = useUsualPlace();
  return (
    <Page title="Settings" about={<p className="quiet">Whatever is changed here holds at once.</p>}>
      <PageTitle>Settings</PageTitle>
      <div className={css.settings}>
        <section aria-label="In this browser">
          <h2>In this browser</h2>
          <div className="field">
            <span>Colours</span>
            <Choices label="Colours" value={choice} options={rooms} onChange={choose} />
          </div>
          <NumberKeys />
          <SystemNotices />
        </section>
        <div className={css.column}>
          <section aria-label="New sessions">
            <h2>New sessions</h2>
            <FolderPicker label="Where they go unless another folder is chosen" value={place} onChange={setPlace} />
            {place.shelfId ? (
              <Button size="small" onClick={() => setPlace({ shelfId: undefined, path: "" })}>
                Choose none
              </Button>
            ) : (
              <p className="quiet">Nothing is chosen: they go to the first session drive that is there.</p>
            )}
          </section>
          <DocumentKinds />
        </div>
        <StandardBackups />
      </div>
    </Page>
  );
}

function StandardBackups() {
  const standard = useStandardBackups();
  const choosing = useChooseStandardBackups();
  const tell = useTell();
  // What is on its way is shown already: the next box that is ticked must not take it back.
  const now = choosing.isPending ? choosing.variables : standard.data;
  const change = (next: Partial<BackupChoice>) =>
    now && choosing.mutate({ ...now, ...next }, { onError: (e) => tell.error(e.message) });
  return (
    <section aria-label="Backups">
      <h2>Backups</h2>
      <p className="quiet">
        They hold for every session for which nothing else was chosen at its station Back up, in Places and rules.
      </p>
      {standard.error && !now && (
        <Alert
          type="error"
          title={standard.error.message}
          action={<Button onClick={() => standard.refetch()}>Try again</Button>}
        />
      )}
      {now ? (
        <>
          <h3>Saves of the document</h3>
          <KeptInSession choice={now} onChange={change} />
          <h3>Full backups</h3>
          <FullBackupRules choice={now} onChange={change} />
          <h3>Thinning</h3>
          <ThinningRules choice={now} onChange={change} />
        </>
      ) : (
        !standard.error && <p className="quiet">One moment.</p>
      )}
    </section>
  );
}
