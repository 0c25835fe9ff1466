import type { PurgeFile, PurgeGroup, PurgeInfo } from "../api/types";

/** What is chosen to go: whole groups, but for the files that stay, and single files besides. */
export interface Going {
  groups: readonly PurgeGroup[];
  except: readonly string[];
  also: readonly string[];
}

export const nothingGoes: Going = { groups: [], except: [], also: [] };

/** Whether a file is chosen to go. */
export const goes = (file: PurgeFile, { groups, except, also }: Going) =>
  also.includes(file.file.id) ||
  (file.group !== null && groups.includes(file.group) && !file.isOnlyByName && !except.includes(file.file.id));

/** The choice with files that go, or stay. Files that are out of sight go and stay by their identity alone. */
export function withFiles(going: Going, ids: readonly string[], known: readonly PurgeFile[], on: boolean): Going {
  const byId = new Map(known.map((f) => [f.file.id, f]));
  const [except, also] = [new Set(going.except), new Set(going.also)];
  for (const id of ids) {
    const file = byId.get(id);
    const byGroup = !file || (file.group !== null && going.groups.includes(file.group) && !file.isOnlyByName);
    except.delete(id);
    also.delete(id);
    if (on && (!file || !byGroup)) also.add(id);
    if (!on && byGroup) except.add(id);
  }
  return { ...going, except: [...except], also: [...also] };
}

/** The choice with a whole group that goes, or stays. */
export function withGroup(going: Going, group: PurgeGroup, ofGroup: readonly string[], on: boolean): Going {
  const its = new Set(ofGroup);
  return {
    groups: on ? [...going.groups.filter((g) => g !== group), group] : going.groups.filter((g) => g !== group),
    except: going.except.filter((id) => !its.has(id)),
    // What goes by name alone stays chosen as it was.
    also: on ? going.also : going.also.filter((id) => !its.has(id)),
  };
}

/** Whether anything is chosen. */
export const anythingGoes = ({ groups, also }: Going, info: PurgeInfo | undefined) =>
  also.length > 0 || (info?.groups.some((g) => groups.includes(g.group) && g.files > g.onlyByName) ?? false);
