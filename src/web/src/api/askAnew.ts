import type { InvalidateQueryFilters, QueryClient } from "@tanstack/react-query";

/**
 * Asks for something anew because it changed. A question that is on its way for the first time would not be asked again by
 * that alone, and its answer may be of before the change: it is given up, and asked once more.
 */
export async function askAnew(client: QueryClient, filters: InvalidateQueryFilters): Promise<void> {
  await client.cancelQueries({ ...filters, predicate: (query) => query.state.data === undefined });
  await client.invalidateQueries(filters);
}
