import { type ComponentType, type LazyExoticComponent, lazy } from "react";
import type { Inventory, Standing, Use } from "../api/types";
import type { StationProps } from "../plans/stationProps";
import { backedUp, count, number, rate, size } from "../words";

/** A station of the work. */
export interface Station {
  /** Its key on the keyboard, and on the route card: it keeps this whatever stations come. */
  number: number;
  title: string;
  /** What waits there, in words. */
  waits: (inventory: Inventory) => string;
  /** Whether somebody should go there. */
  isWaiting: (inventory: Inventory) => boolean;
  page: LazyExoticComponent<ComponentType<StationProps>>;
}

/** How many files stand so, of what the session is now, or of what older versions alone use. */
const filesOf = ({ session }: Inventory, standing: Standing, isOlder = false) =>
  session.weights
    .filter((w) => w.standing === standing && (w.use === "OlderOnly") === isOlder)
    .reduce((sum, w) => sum + w.files, 0);

/** How many files nobody can hear at this moment. */
const silentFiles = (inventory: Inventory, isOlder = false) =>
  filesOf(inventory, "Missing", isOlder) + filesOf(inventory, "Away", isOlder);

/** What older versions miss is no alarm: the session as it is now is whole. */
const olderWords = (inventory: Inventory) => {
  const older = silentFiles(inventory, true);
  return older === 0 ? "nothing missing" : `older versions miss ${number(older)}`;
};

/** The stations of the work, in its order. */
const all = {
  "set-up": {
    number: 1,
    title: "Set up",
    page: lazy(() => import("../set-up/SetUpStation").then((m) => ({ default: m.SetUpStation }))),
    isWaiting: () => false,
    waits: ({ settings }) =>
      settings
        ? `${rate(settings.sampleRate)}, ${settings.bitDepth} bit, ${settings.tempo} in ${settings.timeSignature}`
        : "adopted as it is",
  },
  record: {
    number: 2,
    title: "Record",
    page: lazy(() => import("../record/RecordStation").then((m) => ({ default: m.RecordStation }))),
    isWaiting: ({ takes }) => takes.cutOff + takes.waiting > 0,
    waits: ({ takes }) => {
      if (takes.growing > 0) return `${number(takes.growing)} growing now`;
      if (takes.cutOff > 0) return `${number(takes.cutOff)} cut off`;
      if (takes.waiting > 0) return `${count(takes.waiting, "take")} not in the session`;
      return takes.files === 0 ? "no takes yet" : count(takes.files, "take");
    },
  },
  "copy-in": {
    number: 3,
    title: "Copy in",
    page: lazy(() => import("../copy-in/CopyInStation").then((m) => ({ default: m.CopyInStation }))),
    isWaiting: ({ outside }) => outside.taken > 0,
    waits: ({ outside }) =>
      outside.taken === 0
        ? outside.leftOut > 0
          ? `${number(outside.leftOut)} left out by choice`
          : "nothing outside"
        : `${number(outside.taken)} outside, ${size(outside.takenBytes)}`,
  },
  relink: {
    number: 4,
    title: "Relink",
    page: lazy(() => import("../relink/RelinkStation").then((m) => ({ default: m.RelinkStation }))),
    isWaiting: (inventory) => silentFiles(inventory) > 0,
    waits: (inventory) => {
      const [missing, away] = [filesOf(inventory, "Missing"), filesOf(inventory, "Away")];
      return (
        [missing > 0 && `${number(missing)} missing`, away > 0 && `${number(away)} away`].filter(Boolean).join(", ") ||
        olderWords(inventory)
      );
    },
  },
  purge: {
    number: 5,
    title: "Purge",
    page: lazy(() => import("../purge/PurgeStation").then((m) => ({ default: m.PurgeStation }))),
    isWaiting: () => false,
    waits: ({ session }) => {
      const weightOf = (...uses: Use[]) =>
        session.weights
          .filter((w) => w.standing === "Inside" && uses.includes(w.use))
          .reduce((sum, w) => ({ files: sum.files + w.files, bytes: sum.bytes + w.bytes }), { files: 0, bytes: 0 });
      const [loose, held] = [weightOf("Listed", "Stray"), weightOf("SetAside")];
      // What no document names is not unused: where only names are known, nothing waits here.
      const [nowhere, named, open] = [weightOf("NamedNowhere"), weightOf("Named"), weightOf("Unknown")];
      return (
        [
          loose.files > 0 && `${number(loose.files)} not placed, ${size(loose.bytes)}`,
          held.files > 0 && `${number(held.files)} set aside`,
          nowhere.files > 0 && `${number(nowhere.files)} named nowhere`,
        ]
          .filter(Boolean)
          .join("; ") ||
        (open.files > 0 ? "use not known" : named.files > 0 ? "every file is named" : "every file is placed")
      );
    },
  },
  backups: {
    number: 6,
    title: "Back up",
    page: lazy(() => import("../backups/BackupsStation").then((m) => ({ default: m.BackupsStation }))),
    isWaiting: ({ session }) => session.backup?.worry ?? false,
    waits: ({ session: { backup } }) => (backup ? backedUp(backup) : "not known"),
  },
  bundle: {
    number: 7,
    title: "Bundle",
    page: lazy(() => import("../bundles/BundleStation").then((m) => ({ default: m.BundleStation }))),
    isWaiting: (inventory) => silentFiles(inventory) > 0,
    waits: (inventory) => {
      const silent = silentFiles(inventory);
      return silent === 0 ? olderWords(inventory) : `${count(silent, "file")} unavailable`;
    },
  },
} satisfies Record<string, Station>;

export type StationKey = keyof typeof all;

export const stations: Readonly<Record<StationKey, Station>> = all;

export const stationKeys = Object.keys(all) as StationKey[];
