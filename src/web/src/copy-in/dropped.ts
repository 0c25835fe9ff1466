/** So many files of dropped folders are taken; a whole library is scanned as a shelf instead. */
export const mostDropped = 2000;

/** Somebody dropped more files than can be taken. */
export class TooManyDropped extends Error {
  constructor() {
    super(
      `That is more than ${mostDropped.toLocaleString("en")} files. Nothing was taken in: add the folder as a shelf, and choose from it at Copy in.`,
    );
  }
}

/** The files that were dropped; those of folders, too, at any depth. Hidden ones stay out, as drives of other systems are full of them. */
export async function droppedFiles(data: DataTransfer): Promise<File[]> {
  // What a drop holds can be asked for only until its event is over.
  const loose = [...data.files];
  const entries = [...data.items].flatMap((item) => item.webkitGetAsEntry() ?? []);
  if (!entries.some((e) => e.isDirectory)) return loose;
  const files: File[] = [];
  for (const entry of entries) await collect(entry, files);
  return files;
}

async function collect(entry: FileSystemEntry, into: File[]): Promise<void> {
  if (entry.name.startsWith(".")) return;
  if (isFile(entry)) {
    if (into.length >= mostDropped) throw new TooManyDropped();
    into.push(await new Promise<File>((done, failed) => entry.file(done, failed)));
  } else if (isFolder(entry)) {
    const reader = entry.createReader();
    for (;;) {
      // A folder is told in parts, and the last one is empty (File and Directory Entries API, readEntries).
      const part = await new Promise<FileSystemEntry[]>((done, failed) => reader.readEntries(done, failed));
      if (part.length === 0) return;
      for (const inner of part) await collect(inner, into);
    }
  }
}

const isFile = (entry: FileSystemEntry): entry is FileSystemFileEntry => entry.isFile;

const isFolder = (entry: FileSystemEntry): entry is FileSystemDirectoryEntry => entry.isDirectory;
