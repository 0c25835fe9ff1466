import { type QueryKey, useQueries, useQueryClient } from "@tanstack/react-query";
import { useCallback, useMemo, useRef, useState } from "react";

/** So many rows come with one question: a few more than a list shows. */
export const partSize = 100;

/** A part of a long list as the server gives it. */
export interface Part<Row> {
  total: number;
  files: readonly Row[];
}

/** A long list of which only the parts in sight are asked for. */
export interface Parts<P extends Part<Row>, Row> {
  total: number;
  /** The first part, which says what holds for all of the list; undefined until it is there. */
  first: P | undefined;
  error: Error | null;
  /** The row at a place; undefined while it is on its way. */
  at: (index: number) => Row | undefined;
  /** All rows that are there, in order. */
  loaded: readonly Row[];
  /** Says which rows are in sight. */
  want: (first: number, last: number) => void;
  /** Asks for a row that need not be in sight. */
  load: (index: number) => Promise<Row | undefined>;
}

/**
 * The parts of a list that are in sight, and the first.
 * @param key What is asked for. While another list is on its way, the last one stays in sight.
 * @param ask Asks for a part.
 */
export function useParts<P extends Part<Row>, Row>(
  key: QueryKey,
  ask: (skip: number, take: number, signal: AbortSignal) => Promise<P>,
): Parts<P, Row> {
  const client = useQueryClient();
  const [[from, to], setRange] = useState<readonly [number, number]>([0, 0]);
  const numbers = useMemo(
    () => [...new Set([0, ...Array.from({ length: to - from + 1 }, (_, n) => from + n)])],
    [from, to],
  );
  const query = (part: number) => ({
    queryKey: [...key, part],
    gcTime: 60_000,
    queryFn: ({ signal }: { signal: AbortSignal }) => ask(part * partSize, partSize, signal),
  });
  const answers = useQueries({ queries: numbers.map(query) });
  const last = useRef<ReadonlyMap<number, P>>(new Map());
  const parts = new Map<number, P>();
  numbers.forEach((part, n) => {
    const data = answers[n]?.data;
    if (data) parts.set(part, data);
  });
  if (parts.has(0)) last.current = parts;
  const shown = parts.has(0) ? parts : last.current;
  const stamp = `${answers.map((a) => a.dataUpdatedAt).join()} ${numbers.join()} ${JSON.stringify(key)}`;
  // biome-ignore lint/correctness/useExhaustiveDependencies: the stamp tells when the parts are others
  const loaded = useMemo(() => [...shown].toSorted(([a], [b]) => a - b).flatMap(([, part]) => part.files), [stamp]);
  return {
    total: shown.get(0)?.total ?? 0,
    first: shown.get(0),
    error: answers.find((a) => a.error)?.error ?? null,
    at: (index) => shown.get(Math.floor(index / partSize))?.files[index % partSize],
    loaded,
    want: useCallback((a, b) => {
      const next = [Math.floor(Math.max(0, a) / partSize), Math.floor(Math.max(0, b) / partSize)] as const;
      setRange((now) => (now[0] === next[0] && now[1] === next[1] ? now : next));
    }, []),
    load: async (index) => {
      const part = await client.ensureQueryData(query(Math.floor(index / partSize)));
      return part.files[index % partSize];
    },
  };
}
