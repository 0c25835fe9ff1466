import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import type { PlanRun } from "./usePlanRun";

/** So long nothing is typed before a plan is made for it. */
const settledAfterMs = 200;

/** What the present choices would do. */
export interface Planned<View> {
  /** What was planned last. It may still be for other choices: then it is shown, and not applied. */
  view: View | null;
  /** True where it was made for exactly the choices in sight. */
  isCurrent: boolean;
  planning: boolean;
  error: string | null;
}

/**
 * Has a plan made for choices, anew whenever they or the world change.
 * @param name What is planned. While it is planned anew for other choices, what was planned last stays in sight.
 * @param choice The choices in sight; null while there is nothing to plan.
 * @param world What else the plan depends on, as fingerprints.
 * @param ask Makes the plan.
 * @param run What the tray does: while it shows something else, nothing is planned.
 */
export function usePlanned<Choice, View>(
  name: string,
  choice: Choice | null,
  world: unknown,
  ask: (choice: Choice, signal: AbortSignal) => Promise<View>,
  run: PlanRun,
): Planned<View> {
  const wished = choice === null ? null : JSON.stringify(choice);
  const settled = useSettled(wished);
  const enabled = settled !== null && wished !== null && run.job === null;
  const query = useQuery({
    queryKey: ["plan", name, settled, world],
    enabled,
    gcTime: 0,
    staleTime: 60_000,
    refetchOnWindowFocus: false,
    queryFn: ({ signal }) => ask(JSON.parse(settled ?? "null") as Choice, signal),
  });
  const isSame = wished === settled;
  const last = useRef<{ name: string; view: View } | null>(null);
  if (query.data !== undefined) last.current = { name, view: query.data };
  const shown = query.data ?? (last.current?.name === name ? last.current.view : null);
  return {
    view: wished === null ? null : shown,
    isCurrent: enabled && isSame && query.isSuccess,
    planning: wished !== null && run.job === null && (!isSame || query.isFetching),
    error: isSame && enabled ? (query.error?.message ?? null) : null,
  };
}

/** A value once it has not changed for a moment; the first one, and nothing, at once. */
function useSettled(value: string | null): string | null {
  const [settled, setSettled] = useState(value);
  useEffect(() => {
    if (value === settled) return;
    const timer = setTimeout(() => setSettled(value), value === null || settled === null ? 0 : settledAfterMs);
    return () => clearTimeout(timer);
  }, [value, settled]);
  return settled;
}
