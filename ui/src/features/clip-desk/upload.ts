import { api, NoConnection, need, Problem, type Schema } from "../../api/client";

export type Clip = Schema["ClipView"];

/** How often a part is sent again after the connection was lost, and the wait between, ms. */
const tries = 6;
const wait = (n: number) => new Promise((done) => setTimeout(done, 400 * 2 ** n));

/** How much of a file's beginning, middle and end says which file it is, bytes. */
const looked = 128 << 10;

/** What a file looks like: the same file gives the same, on any day and device. */
export async function printOf(file: Blob): Promise<string> {
  let a = 0x811c9dc5;
  let b = 0x1b873593;
  for (const from of [0, Math.floor(file.size / 2), Math.max(0, file.size - looked)]) {
    for (const x of new Uint8Array(await file.slice(from, from + looked).arrayBuffer())) {
      a = Math.imul(a ^ x, 0x01000193);
      b = Math.imul(b ^ x, 0x85ebca6b) + 0x9e3779b9;
    }
  }
  return `${file.size}-${(a >>> 0).toString(16)}-${(b >>> 0).toString(16)}`;
}

/**
 * Brings a file in by parts. After a lost connection it asks how much has come and
 * goes on from there; where it broke off for good, the same file brought in again goes
 * on. Stopping leaves nothing behind.
 */
export async function bringIn(
  screening: string,
  file: File,
  progress: (share: number) => void,
  signal: AbortSignal,
  pause: (n: number) => Promise<unknown> = wait,
): Promise<Clip & { known?: boolean }> {
  const clip = await need(
    api.POST("/api/screenings/{id}/clips", {
      params: { path: { id: screening } },
      body: { name: file.name, size: file.size, print: await printOf(file) },
    }),
  );
  if (clip.ready || clip.turning) return { ...clip, known: true };
  const path = { params: { path: { id: clip.id } } };
  let at = clip.received;
  let lost = 0;
  try {
    while (at < file.size) {
      signal.throwIfAborted();
      try {
        const res = await fetch(`/api/clips/${clip.id}/parts?offset=${at}`, {
          method: "PUT",
          headers: { "Content-Type": "application/octet-stream" },
          body: file.slice(at, at + clip.part),
          signal,
        });
        if (!res.ok && res.status < 500 && res.status !== 422)
          throw new Problem(res.status, await res.json());
        if (!res.ok) throw new NoConnection();
        at = ((await res.json()) as Schema["Received"]).received;
        lost = 0;
      } catch (e) {
        if (signal.aborted || e instanceof Problem || ++lost > tries) throw e;
        await pause(lost);
        at = (await need(api.GET("/api/clips/{id}", path)).catch(() => ({ received: at }))).received;
      }
      progress(at / file.size);
    }
  } catch (e) {
    if (signal.aborted) await api.DELETE("/api/clips/{id}", path).catch(() => {});
    throw e;
  }
  // What is no clip the server drops by itself.
  return need(api.POST("/api/clips/{id}/finish", path));
}
