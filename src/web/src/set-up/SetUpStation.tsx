import { FileList } from "../files/FileList";
import { FileTag } from "../files/FileTag";
import { History } from "../plans/History";
import { PlanTray } from "../plans/PlanTray";
import type { StationProps } from "../session/SessionPage";
import { useSegment } from "../session/useSegment";
import { Weighbridge } from "../weighbridge/Weighbridge";
import { count, rate, size, when } from "../words";
import "./set-up.css";

/** What the session is, what is in its folder, and what was done in it. */
export function SetUpStation({ inventory, run }: StationProps) {
  const { session } = inventory;
  const view = useSegment(inventory);
  const facts: [string, string | null][] = [
    ["Document", session.document],
    ["Saved", session.documentChanged ? when(session.documentChanged) : null],
    ["Sound", session.sampleRate ? `${rate(session.sampleRate)}, ${session.bitDepth} bit` : null],
    ["Tempo", session.tempo ? `${session.tempo} in ${session.timeSignature}` : null],
    ["Tracks", inventory.trackNames.length > 0 ? inventory.trackNames.join(", ") : null],
    [
      "Other files",
      inventory.otherFiles > 0 ? `${count(inventory.otherFiles, "file")}, ${size(inventory.otherBytes)}` : null,
    ],
  ];
  return (
    <main className="station">
      <div className="station-head">
        <h1>Set up</h1>
        <code className="path">{session.folder}</code>
      </div>
      {inventory.remarks.map((remark) => (
        <p className="warning" key={remark}>
          {remark}
        </p>
      ))}
      <div className="set-up-facts">
        <dl className="facts">
          {facts.map(
            ([name, value]) =>
              value && (
                <div key={name}>
                  <dt>{name}</dt>
                  <dd>{value}</dd>
                </div>
              ),
          )}
        </dl>
        <History sessionId={session.id} run={run} />
      </div>
      <Weighbridge weights={session.weights} chosen={view.segment} onChoose={view.setSegment} />
      <div className="with-tag">
        <FileList
          files={view.files}
          active={view.active}
          onActive={view.setActive}
          empty="No media files yet. Recordings go into the session's audio folder."
        />
        {view.activeFile && <FileTag file={view.activeFile} onClose={() => view.setActive(null)} />}
      </div>
      <PlanTray run={run} plan={null} planning={false} error={null} applyWord="Apply" idle="Nothing is planned here." />
    </main>
  );
}
