import { t } from "@lingui/core/macro";
import createClient from "openapi-fetch";
import { inUnits } from "../parts/measures";
import { newId } from "./id";
import type { components, paths } from "./schema";

export type Schema = components["schemas"];
export const api = createClient<paths>({ baseUrl: window.location.origin });

// A page that looks again by itself does not keep its session alive: what is sent
// while nobody has touched it for a while says so.
let touched = Date.now();
for (const e of ["pointerdown", "keydown", "wheel"])
  addEventListener(
    e,
    () => {
      touched = Date.now();
    },
    { passive: true, capture: true },
  );
const unattendedAfter = 60_000;
api.use({
  onRequest: ({ request }) => {
    if (Date.now() - touched > unattendedAfter) request.headers.set("Notchback-Unattended", "1");
    return request;
  },
});

/** An answer of the server that is not what was wanted, with the fields it names. */
export class Problem extends Error {
  readonly status: number;
  readonly fields: Record<string, string>;
  readonly value: unknown;
  constructor(status: number, model: Partial<Schema["ErrorModel"]>) {
    super(model.detail ?? model.title ?? t`something went wrong`);
    this.status = status;
    this.fields = {};
    for (const e of model.errors ?? []) {
      if (e.location) this.fields[e.location.replace(/^body\.?/, "")] = e.message ?? "";
    }
    this.value = model.errors?.[0]?.value;
  }
}

/** The server could not be reached; what was typed stays on this device. */
export class NoConnection extends Error {
  constructor() {
    super(t`No connection. What you typed is kept here and sent when it is back.`);
  }
}

type Answer<T> = { data?: T; error?: unknown; response: Response };

/** Awaits an answer; throws a Problem or NoConnection. */
export async function need<T>(call: Promise<Answer<T>>): Promise<T> {
  let got: Answer<T>;
  try {
    got = await call;
  } catch (e) {
    if (e instanceof DOMException && e.name === "AbortError") throw e;
    throw new NoConnection();
  }
  if (got.data !== undefined && got.response.ok) return inUnits(got.data);
  if (got.response.status >= 502 && got.response.status <= 504) throw new NoConnection();
  throw new Problem(got.response.status, (got.error ?? {}) as Partial<Schema["ErrorModel"]>);
}

/** A fresh key under which a request is answered only once. */
export const freshKey = newId;
