import createClient from "openapi-fetch";
import { clockOffset, identityNow, namedHeaders, noteServerTime } from "./device";
import { readOrPack } from "./pack";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];
export type Trial = Schemas["TrialOut"];
export type Strip = Schemas["StripOut"];
export type Treatment = Schemas["TreatmentOut"];
export type Typed = Schemas["TypedIn"];
export type Working = Schemas["WorkingOut"];
export type Catalogue = Schemas["CatalogueOut"];
export type RecordKind = paths["/api/records/{kind}/{record_id}/void"]["post"]["parameters"]["path"]["kind"];
export type Person = Schemas["PersonOut"];

export type RowProblem = { row: number; id?: string; field: string | null; message: string };

/** What the server answered instead of a result. `status` 0: it could not be reached. */
export class Fault extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly field: string | null = null,
    readonly problems: RowProblem[] = [],
    /** What the server holds, where a write is in conflict with it. */
    readonly current: Record<string, unknown> | null = null,
  ) {
    super(message);
  }
}

function csrfToken(): string {
  return document.cookie.match(/(?:^|; )csrftoken=([^;]+)/)?.[1] ?? "";
}

export const client = createClient<paths>({
  baseUrl: window.location.origin,
  credentials: "same-origin",
  fetch: readOrPack,
});
/** When a write went out, for comparing the clocks when its answer comes. */
const asked = new WeakMap<Request, number>();
client.use({
  onRequest({ request }) {
    if (request.method === "GET") return request;
    request.headers.set("X-CSRFToken", csrfToken());
    const who = identityNow();
    if (who && !request.headers.has("X-Person"))
      for (const [name, value] of Object.entries(namedHeaders({ ...who, clock: clockOffset() })))
        request.headers.set(name, value);
    asked.set(request, Date.now());
    return request;
  },
  onResponse({ request, response }) {
    const before = asked.get(request);
    if (before !== undefined) noteServerTime(Date.parse(response.headers.get("Date") ?? ""), before, Date.now());
    return undefined;
  },
});

type Answer<T> = { data?: T; error?: unknown; response: Response };

/** Unwrap an answer, or throw a `Fault` that says what was wrong. */
export async function ask<T>(call: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>;
  try {
    answer = await call;
  } catch {
    throw new Fault(0, "unreachable", "The server cannot be reached. What you typed is kept; it is tried again.");
  }
  if (answer.response.ok) return answer.data as T;
  const body = (answer.error ?? {}) as {
    code?: string;
    message?: string;
    field?: string | null;
    problems?: RowProblem[];
    current?: Record<string, unknown> | null;
  };
  throw new Fault(
    answer.response.status,
    body.code ?? "http",
    body.message ?? `The server answered ${answer.response.status}. Try again; if it stays, tell whoever runs it.`,
    body.field ?? null,
    body.problems ?? [],
    body.current ?? null,
  );
}
