/** What somebody can do at a place, by the last part of its address; "" is the loading bay. */
export const helpTexts: Readonly<Record<string, { title: string; says: readonly string[] }>> = {
  "": {
    title: "The loading bay",
    says: [
      "All your sessions, those that need you first. The button at the end of a row goes where that is mended.",
      "“Only here” means: if this drive dies, these files are gone. One button above backs up all of that.",
      "Looking never changes a file. Whatever would change one is planned first, and shown before you apply it.",
    ],
  },
  shelves: {
    title: "Shelves",
    says: [
      "A shelf is a drive or a folder that Neat Crate knows: where sessions live, where samples are, where backups go.",
      "A scan looks at what is new on it, so that samples are found and missing files come back. No file is touched.",
      "A drive that is away keeps its place: what stands on it is called away, not missing.",
    ],
  },
  settings: {
    title: "Settings",
    says: ["What holds for every session, and how this browser shows it. Whatever is changed holds at once."],
  },
  new: {
    title: "New session",
    says: [
      "A folder of its own for every song, named alike every time. The tree at the right is what will be made.",
      "Presets keep a form that you use again. Nothing is made before you apply the plan.",
    ],
  },
  adopt: {
    title: "Adopt a folder",
    says: [
      "Go to the folder of a session that you have. Its documents and media are shown before it is adopted.",
      "Adopting changes nothing in the folder. Two sessions in one folder can be given a folder each, by a plan.",
    ],
  },
  "set-up": {
    title: "Set up",
    says: [
      "The session's tree, its settings, its versions and all that was done to it.",
      "The history undoes an applied plan for as long as what it needs is kept.",
    ],
  },
  record: {
    title: "Record",
    says: [
      "Arm tracks and record; each take grows in the audio folder and goes to the mirror at the same time.",
      "The take log names takes, marks keepers and places them. A recording that was cut off is repaired on a copy.",
    ],
  },
  "copy-in": {
    title: "Copy in",
    says: [
      "What stands outside goes silent when its drive leaves. Marked files are copied in, and the document points at the copies.",
      "“Something new” finds samples on every shelf by name, or takes files that you drop. Originals are left alone.",
    ],
  },
  relink: {
    title: "Relink",
    says: [
      "For each missing file, what may be it: hear both, see their outlines, and read what speaks for it.",
      "“Certain” is said only where the bytes or the sound were compared. What is not certain is yours to decide.",
    ],
  },
  purge: {
    title: "Purge",
    says: [
      "Takes that no version places can be set aside. They stay in the session and can be put back until you empty them.",
      "Keepers, renders and what other sessions use are protected. Trim keeps what is in use, with handles.",
    ],
  },
  backups: {
    title: "Back up",
    says: [
      "Every save of the document is kept by itself. A full backup puts every file into a vault, read back and compared.",
      "In the logbook each mark is a save; a notch is what went. What you bring back comes beside what is there.",
      "Two copies on one drive are one place: How safe counts drives.",
    ],
  },
  bundle: {
    title: "Bundle",
    says: [
      "A copy of the session that opens elsewhere with every file inside, with check sums to prove it.",
      "What is missing or away now would be silent there: Relink first.",
    ],
  },
};

/** The place that an address is of: the station, or the page. */
export function placeOf(pathname: string): string {
  const [first = "", , third = ""] = pathname.split("/").filter(Boolean);
  return first === "sessions" ? (third in helpTexts ? third : "set-up") : first in helpTexts ? first : "";
}
