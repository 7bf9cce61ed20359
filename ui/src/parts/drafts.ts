/**
 * What was typed and the server does not have yet, kept on this device: under the
 * practice and user who typed it, until it is sent, they sign out, or it is old.
 */
let owner = "";
const keptFor = 14 * 24 * 3600 * 1000;

type Kept = { at: number; value: unknown };

const slots = () =>
  Array.from({ length: localStorage.length }, (_, i) => localStorage.key(i) ?? "").filter((k) =>
    k.startsWith("draft:"),
  );

function read(slot: string): Kept | undefined {
  try {
    const k = JSON.parse(localStorage.getItem(slot) ?? "null") as Kept | null;
    return k && typeof k.at === "number" ? k : undefined;
  } catch {
    return undefined;
  }
}

/** Says whose drafts these are; what is old, or nobody's, goes. */
export function draftsOf(practice: string, user: string) {
  owner = `draft:${practice}:${user}:`;
  for (const slot of slots()) {
    const kept = read(slot);
    if (!kept || kept.at < Date.now() - keptFor) localStorage.removeItem(slot);
  }
}

export function getDraft<T>(name: string): T | undefined {
  return owner ? (read(owner + name)?.value as T | undefined) : undefined;
}

/** A form's draft with its key, where it still has the shape of what the form begins with. */
export function draftLike<T>(name: string, start: T): { key: string; value: T } | undefined {
  const kept = getDraft<{ key: string; value: T }>(name);
  return kept && typeof kept.key === "string" && fits(kept.value, start) ? kept : undefined;
}

/** A value fits while it has the fields of the form, of the same kinds. */
function fits(value: unknown, start: unknown): boolean {
  if (Array.isArray(start)) return Array.isArray(value);
  if (typeof start !== "object" || start === null)
    return start === undefined || value === undefined || typeof value === typeof start;
  if (typeof value !== "object" || value === null || Array.isArray(value)) return false;
  return Object.entries(start).every(([k, v]) => fits((value as Record<string, unknown>)[k], v));
}

export function putDraft(name: string, value: unknown) {
  if (owner) localStorage.setItem(owner + name, JSON.stringify({ at: Date.now(), value } satisfies Kept));
}

export function dropDraft(name: string) {
  if (owner) localStorage.removeItem(owner + name);
}

/** How many drafts of whoever is signed in wait. */
export const unsent = () => (owner ? slots().filter((s) => s.startsWith(owner)).length : 0);

/** Forgets all drafts of whoever is signed in. */
export function dropDrafts() {
  if (!owner) return;
  for (const slot of slots()) if (slot.startsWith(owner)) localStorage.removeItem(slot);
  owner = "";
}
