import { Modal } from "antd";
import type { OpenedBundle, TrackOpening } from "../api/types";
import { count, duration, size } from "../words";
import css from "./bundles.module.css";
import { useOpenedBundle } from "./queries";

const openingWord: Record<TrackOpening, string> = {
  Sounds: "sounds",
  InPart: "in part",
  Silent: "silent",
  Quiet: "nothing on it",
};

/** What is heard of a bundle, in one sentence. */
export function heard({ document, readsDocument, tracks, prints }: OpenedBundle): string {
  if (!document) return "There is no document in it that could be read.";
  if (!readsDocument)
    return prints.length > 0
      ? `They cannot read the document; ${count(prints.length, "printed track")} can be put one below the other.`
      : "They cannot read the document, and no printed tracks are in it.";
  if (tracks.length === 0) return "The document tells nothing of tracks that we can read.";
  if (tracks.every((t) => t.opening === "Quiet")) return "Nothing is placed on any track.";
  const lacking = tracks.filter((t) => t.opening === "Silent" || t.opening === "InPart" || t.effects.length > 0);
  if (lacking.length === 0) return "Every track sounds.";
  return `${count(lacking.length, "track")} of ${tracks.length} will not sound as ${lacking.length === 1 ? "it does" : "they do"} here.`;
}

interface Props {
  sessionId: string;
  planId: string;
  name: string;
  onClose: () => void;
}

/** A packed bundle as whoever gets it finds it: on a computer that has nothing of ours. */
export function AsTheyFindIt({ sessionId, planId, name, onClose }: Props) {
  const { data, error } = useOpenedBundle(sessionId, planId);
  return (
    <Modal
      title={`As ${data?.recipient ?? "they"} ${data?.recipient ? "finds" : "find"} it`}
      open
      onCancel={onClose}
      footer={null}
      width={680}
    >
      <p className="quiet">{name}, read from what was packed, with nothing of this computer.</p>
      {error && <p className="trouble">{error.message}</p>}
      {!data && !error && <p role="status">Opening it…</p>}
      {data && <Found opened={data} />}
    </Modal>
  );
}

const lackOf = (track: OpenedBundle["tracks"][number]) => [
  ...track.lacks,
  ...track.effects.map((e) => `the effect ${e}`),
  ...(track.forInstruments > 0 ? [`an instrument for ${count(track.forInstruments, "file")}`] : []),
];

function Found({ opened }: { opened: OpenedBundle }) {
  const { handedOver, tooLarge, notThere, tracks, recipient } = opened;
  const isWhole = tracks.every((t) => t.lacks.length + t.effects.length + t.forInstruments === 0);
  const sum = handedOver.reduce((bytes, h) => bytes + h.bytes, 0);
  return (
    <>
      <p className={css.heard} role="status">
        {heard(opened)}
      </p>
      {notThere.length > 0 && (
        <p className="trouble">
          {count(notThere.length, "file")} that the bundle names {notThere.length === 1 ? "is" : "are"} no longer in it:{" "}
          {notThere.join(", ")}.
        </p>
      )}
      {tracks.length > 0 && (
        <table className={css.opened}>
          <thead>
            <tr>
              <th scope="col">Track</th>
              <th scope="col">There</th>
              {!isWhole && <th scope="col">What lacks</th>}
            </tr>
          </thead>
          <tbody>
            {tracks.map((track, n) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: two tracks may have one name, and their order does not change.
              <tr key={n}>
                <th scope="row">{track.name}</th>
                <td className={track.opening === "Sounds" || track.opening === "Quiet" ? "" : css.lacking}>
                  {openingWord[track.opening]}
                </td>
                {!isWhole && <td>{lackOf(track).join(", ")}</td>}
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <p>
        {count(handedOver.length, "file")} handed over, {size(sum)}: about {duration(opened.transferSeconds)} over a
        line of 20 Mbit/s.
      </p>
      {tooLarge.length > 0 && (
        <p className="warning">
          Too large to reach {recipient ?? "them"}: {tooLarge.map((h) => `${h.name} (${size(h.bytes)})`).join(", ")}.
        </p>
      )}
    </>
  );
}
