import createClient from "openapi-fetch";
import { missServer } from "./connection";
import type { paths } from "./schema.gen";

/** What the server says when it cannot do what was asked: a sentence for the user. */
export class Refusal extends Error {
  readonly status: number;

  constructor(status: number, message: string) {
    super(message);
    this.status = status;
  }
}

export const api = createClient<paths>({ baseUrl: "", headers: { "X-Neat-Crate": "1" } });

interface Problem {
  title?: string | null;
  errors?: Record<string, string[]>;
}

/** Gives the answer of a request, or throws what the server said against it. */
export async function answer<T>(request: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  let result: { data?: T; error?: unknown; response: Response };
  try {
    result = await request;
  } catch (error) {
    // A request that was given up says nothing about the server.
    if (error instanceof DOMException && error.name === "AbortError") throw error;
    missServer();
    throw new Refusal(
      0,
      "Neat Crate does not answer. Is it still running? Once it does, the page shows what was done.",
    );
  }
  if (result.response.ok) return result.data as T;
  const problem = (typeof result.error === "object" ? result.error : {}) as Problem;
  const details = Object.values(problem.errors ?? {}).flat();
  throw new Refusal(
    result.response.status,
    details.length > 0 ? details.join(" ") : (problem.title ?? `The server answered ${result.response.status}.`),
  );
}
