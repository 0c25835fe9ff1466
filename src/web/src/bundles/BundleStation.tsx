import { Button, Dropdown, Input } from "antd";
import { useState } from "react";
import { useNavigate } from "react-router";
import { answer, api } from "../api/client";
import { useShelves } from "../api/queries";
import type { Bundle, BundlePart, Finding, Remedy } from "../api/types";
import { fileList } from "../files/columns";
import { FilesWithTag } from "../files/FilesWithTag";
import { useFiles } from "../files/useFiles";
import { Field } from "../frame/Field";
import { useDraft } from "../frame/kept";
import { Page } from "../frame/Page";
import { Remarks } from "../frame/Remarks";
import { useTell } from "../frame/Tell";
import { PlanTray } from "../plans/PlanTray";
import type { StationProps } from "../plans/stationProps";
import { usePlanned } from "../plans/usePlanned";
import { type FolderChoice, FolderPicker } from "../shelves/FolderPicker";
import { size, when } from "../words";
import { AsTheyFindIt } from "./AsTheyFindIt";
import css from "./bundles.module.css";
import { type FormChoice, FormField, partSizes } from "./FormField";
import { withPart } from "./parts";
import { useBundleParts, useBundles, useRecipientChanges, useRecipients } from "./queries";
import { RecipientField } from "./RecipientField";
import { type Printing, SlipParts } from "./SlipParts";

/** Packs the session for somebody else. */
export function BundleStation({ inventory, run }: StationProps) {
  const { session } = inventory;
  const rows = useFiles({ kind: fileList });
  const shelves = useShelves();
  const [place, setPlace] = useDraft<FolderChoice>("bundle place", { shelfId: undefined, path: "" });
  // Where nobody chose, what is standard goes.
  const [chosen, setChosen] = useDraft<BundlePart[] | null>("bundle parts", null);
  const [printing, setPrinting] = useDraft<Printing>("bundle printing", { law: "EqualGain", convertsRates: false });
  const [packsSound, setPacksSound] = useDraft("bundle packs sound", false);
  const [form, setForm] = useDraft<FormChoice>("bundle form", { form: "OneFile", partBytes: partSizes[1] });
  const [recipient, setRecipient] = useDraft("bundle recipient", "");
  const [note, setNote] = useDraft("bundle note", "");
  // Where nobody chose a place it goes to the outbox.
  const outbox = shelves.data?.find((s) => s.kind === "Outbox" && s.connected);
  const parts = useBundleParts(session.id, inventory.fingerprint, printing, packsSound, chosen);
  const recipients = useRecipients();
  const known = recipients.data?.find(
    (r) => r.recipient.name.toLowerCase() === recipient.trim().toLowerCase(),
  )?.recipient;
  const into = place.shelfId ? place : { shelfId: outbox?.id, path: "" };
  const planned = usePlanned(
    "bundle",
    into.shelfId
      ? { shelfId: into.shelfId, path: into.path, parts: chosen, ...printing, packsSound, ...form, recipient, note }
      : null,
    [session.id, inventory.fingerprint, known],
    (choice, signal) =>
      answer(
        api.POST("/api/sessions/{id}/bundles/plan", { params: { path: { id: session.id } }, body: choice, signal }),
      ),
    run,
  );
  const changed =
    <T,>(set: (value: T) => void) =>
    (value: T) => {
      run.moveOn();
      set(value);
    };
  const navigate = useNavigate();
  const changes = useRecipientChanges();
  const message = useTell();
  const going = chosen ?? parts.data?.standard ?? [];
  const limit = known?.limitBytes ?? 0;
  const partBytes = partSizes.findLast((bytes) => bytes <= limit);
  const act = (label: string, onPress: () => void) => ({
    label,
    onPress: () => {
      run.moveOn();
      onPress();
    },
  });
  const remedyOf = (remedy: Remedy, finding: Finding) => {
    switch (remedy) {
      case "InParts":
        return partBytes && form.form !== "Parts"
          ? act(`Hand it over in parts of ${size(partBytes)}`, () => setForm({ form: "Parts", partBytes }))
          : null;
      case "PackSound":
        return packsSound ? null : act("Pack sound without loss", () => setPacksSound(true));
      case "SoundAsItIs":
        return act("Let sound go as it is", () => setPacksSound(false));
      case "PrintTracks":
        return act("Print the tracks", () => setChosen(withPart(going, "PrintedTracks", true)));
      case "PrintNothing":
        return act("Print nothing", () => setChosen(withPart(going, "PrintedTracks", false)));
      case "LeaveKeptSaves":
        return act("Leave kept saves at home", () => setChosen(withPart(going, "KeptSaves", false)));
      case "ConvertRates":
        return !printing.convertsRates && parts.data?.prints?.some((p) => p.refused && p.otherRate)
          ? act("Convert other sample rates", () => setPrinting({ ...printing, convertsRates: true }))
          : null;
      case "TheyHaveIt":
        return known
          ? act(`${known.name} has ${finding.names.length === 1 ? "it" : "them"}`, () =>
              changes.save.mutate(
                { ...known, has: [...known.has, ...finding.names] },
                { onError: (e) => message.error(e.message) },
              ),
            )
          : null;
      case "Relink":
        return session.says.some((s) => s.about === "Silent")
          ? { label: "Relink", onPress: () => navigate(`/sessions/${session.id}/relink`) }
          : null;
    }
  };
  const bundles = useBundles(session.id);
  const made =
    run.job?.kind === "Bundle" && run.job.state === "Done"
      ? bundles.data?.find((b) => b.planId === run.job?.planId && b.there)
      : undefined;
  return (
    <Page
      title="Bundle"
      about={
        <p className="quiet">
          The session, what is ticked here, and a packing slip. The session itself stays as it is.
        </p>
      }
    >
      <Remarks remarks={inventory.remarks} />
      <div className={css.slip}>
        <div className={css.address}>
          <RecipientField
            recipients={recipients.data ?? []}
            name={recipient}
            onName={changed(setRecipient)}
            onChoose={(r) => {
              run.moveOn();
              setRecipient(r.recipient.name);
              setChosen([...r.parts]);
              setPrinting({ ...printing, convertsRates: printing.convertsRates || !r.recipient.readsDocument });
            }}
          />
          <FolderPicker label="Put it in" value={into} onChange={changed(setPlace)} />
          <FormField value={form} onChange={changed(setForm)} />
          <Field label="Note on the packing slip">
            {(id) => (
              <Input.TextArea
                id={id}
                maxLength={4000}
                autoSize={{ minRows: 2, maxRows: 4 }}
                value={note}
                onChange={(e) => changed(setNote)(e.target.value)}
              />
            )}
          </Field>
        </div>
        <div className={css.goes}>
          {parts.error && <p className="trouble">{parts.error.message}</p>}
          {parts.data && (
            <SlipParts
              parts={parts.data}
              chosen={chosen ?? parts.data.standard}
              onChange={changed(setChosen)}
              printing={printing}
              onPrinting={changed(setPrinting)}
              packsSound={packsSound}
              onPacksSound={changed(setPacksSound)}
            />
          )}
          <PackedBundles sessionId={session.id} bundles={bundles} />
        </div>
      </div>
      <FilesWithTag
        rows={rows}
        weights={session.weights}
        empty="No media files here yet; the bundle would hold the document alone."
      />
      <PlanTray
        run={run}
        planned={planned}
        drafts={["bundle recipient", "bundle note"]}
        applyWord="Pack the bundle"
        idle="Choose where the bundle goes."
        remedyOf={remedyOf}
        after={
          made ? (
            <>
              <OpenedLink sessionId={session.id} bundle={made} />
              <DownloadLink sessionId={session.id} bundle={made} />
            </>
          ) : null
        }
      />
    </Page>
  );
}

/** What can be downloaded of a bundle: the file, or each part; a folder stands on its shelf. */
function DownloadLink({ sessionId, bundle, text }: { sessionId: string; bundle: Bundle; text?: string }) {
  const base = `/api/sessions/${sessionId}/bundles/${bundle.planId}`;
  const [only] = bundle.files;
  if (bundle.files.length === 0)
    return <span>{text ?? `It stands in ${bundle.place.shelf ?? bundle.place.path}`}</span>;
  if (bundle.files.length === 1 && only)
    return (
      <a href={`${base}/file`} download>
        {text ?? "Download"}
      </a>
    );
  return (
    <Dropdown
      menu={{
        items: bundle.files.map((name) => ({
          key: name,
          label: (
            <a href={`${base}/files/${encodeURIComponent(name)}`} download>
              {name}
            </a>
          ),
        })),
      }}
      trigger={["click"]}
    >
      <Button type="link" className={css.partsLink ?? ""}>
        {text ?? "Download the parts"}
      </Button>
    </Dropdown>
  );
}

function OpenedLink({ sessionId, bundle }: { sessionId: string; bundle: Bundle }) {
  const [isOpen, setOpen] = useState(false);
  return (
    <>
      <Button size="small" type="text" onClick={() => setOpen(true)}>
        As they find it
      </Button>
      {isOpen && (
        <AsTheyFindIt sessionId={sessionId} planId={bundle.planId} name={bundle.name} onClose={() => setOpen(false)} />
      )}
    </>
  );
}

function PackedBundles({ sessionId, bundles }: { sessionId: string; bundles: ReturnType<typeof useBundles> }) {
  return (
    <section className={css.packed} aria-label="Packed bundles">
      <h2>Earlier bundles</h2>
      {bundles.error && <p className="trouble">{bundles.error.message}</p>}
      {bundles.data?.length === 0 && <p className="quiet">Nothing was packed yet.</p>}
      <ul>
        {bundles.data?.map((bundle) => (
          <li key={bundle.planId}>
            {bundle.there ? (
              <DownloadLink sessionId={sessionId} bundle={bundle} text={bundle.name} />
            ) : (
              <span className="quiet">{bundle.name}</span>
            )}
            <span className="mono quiet">
              {when(bundle.packed)} · {size(bundle.bytes)} ·{" "}
              {bundle.there ? (bundle.place.shelf ?? bundle.place.path) : "no longer there"}
              {bundle.there && <OpenedLink sessionId={sessionId} bundle={bundle} />}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
