import type { Kept, Report, Store } from "./keep";

/** What became of sending: told by id, signed out, or no connection. */
export type Answer =
  | { is: "told"; items: { id: string; state: string; why?: string }[] }
  | { is: "refused"; why: string }
  | { is: "out" }
  | { is: "away" };
export type Send = (list: Report[]) => Promise<Answer>;

const batch = 50;
/** Characters of files that go at one time; one file always does. */
const batchFiles = 6_000_000;
/** Seconds between two tries while nothing gets through, the last one on and on. */
const pauses = [5, 15, 45, 120, 300];
/** Told reports are shown so long. */
const shownDays = 14;

const weight = (r: Report) => r.file?.data?.length ?? 0;

/** What goes at one time, the oldest first. */
function together(list: Kept[]): Kept[] {
  const out: Kept[] = [];
  let bytes = 0;
  for (const k of list) {
    bytes += weight(k.report);
    if (out.length === batch || (out.length > 0 && bytes > batchFiles)) break;
    out.push(k);
  }
  return out;
}

/** A report without its file, once the file is with the coach. */
const light = (r: Report): Report => (r.file ? { ...r, file: { ...r.file, data: undefined } } : r);

/**
 * What is told is written here first and sent when there is a connection: the oldest
 * first, never twice (the id says so), never dropped before an answer.
 */
export class Outbox {
  private busy = false;
  private tries = 0;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private last = 0;

  private readonly store: Store;
  private readonly send: Send;
  private readonly changed: (list: Kept[], out: boolean) => void;
  private readonly heard: () => void;
  private readonly now: () => number;

  constructor(
    store: Store,
    send: Send,
    changed: (list: Kept[], out: boolean) => void,
    heard: () => void = () => {},
    now: () => number = Date.now,
  ) {
    this.store = store;
    this.send = send;
    this.changed = changed;
    this.heard = heard;
    this.now = now;
  }

  /** Keeps a report; it is safe when this returns. */
  async add(report: Report): Promise<void> {
    const list = await this.store.reports();
    this.last = Math.max(this.now(), this.last + 1, ...list.map((k) => k.order + 1));
    await this.store.putReport({ id: report.id, order: this.last, report, told: "kept" });
    await this.show();
    this.tries = 0;
    void this.pump();
  }

  /** Takes a report that was refused off the list. */
  async drop(id: string): Promise<void> {
    await this.store.dropReport(id);
    await this.show();
  }

  async show(out = false): Promise<void> {
    this.changed(await this.store.reports(), out);
  }

  /** Sends what waits, until nothing does or nothing gets through. */
  async pump(): Promise<void> {
    if (this.busy) return;
    this.busy = true;
    clearTimeout(this.timer);
    let any = false;
    try {
      for (;;) {
        const waiting = together((await this.store.reports()).filter((k) => k.told === "kept"));
        if (waiting.length === 0) break;
        const got = await this.send(waiting.map((k) => k.report));
        if (got.is === "out") {
          await this.show(true);
          return;
        }
        if (got.is === "away") {
          this.later();
          return;
        }
        if (got.is === "refused") {
          // One of them is none: each goes by itself, so that it holds up no other.
          await this.singly(waiting, got.why);
        } else await this.settle(waiting, got.items);
        any = true;
        this.tries = 0;
        await this.show();
      }
      await this.forget();
    } finally {
      this.busy = false;
      if (any) this.heard();
    }
  }

  private later() {
    const s = pauses[Math.min(this.tries, pauses.length - 1)] ?? 300;
    this.tries += 1;
    this.timer = setTimeout(() => void this.pump(), s * 1000);
  }

  private async singly(waiting: Kept[], why: string) {
    for (const k of waiting) {
      const got = waiting.length === 1 ? ({ is: "refused", why } as const) : await this.send([k.report]);
      if (got.is === "told") await this.settle([k], got.items);
      else if (got.is === "refused") await this.store.putReport({ ...k, told: "refused", why: got.why });
      else return; // later
    }
  }

  private async settle(sent: Kept[], items: { id: string; state: string; why?: string }[]) {
    for (const k of sent) {
      const it = items.find((x) => x.id === k.id);
      if (!it) continue; // not answered: it is sent again
      await this.store.putReport({
        ...k,
        report: it.state === "refused" ? k.report : light(k.report),
        told: it.state === "refused" ? "refused" : "coach",
        why: it.why,
      });
    }
  }

  /** What the server found wrong later on. */
  async hear(list: readonly { id: string; state: string; why?: string }[]): Promise<void> {
    for (const k of await this.store.reports()) {
      const it = list.find((x) => x.id === k.id);
      if (it?.state === "refused" && k.told !== "refused")
        await this.store.putReport({ ...k, told: "refused", why: it.why });
    }
    await this.show();
  }

  private async forget() {
    const old = this.now() - shownDays * 86_400_000;
    for (const k of await this.store.reports())
      if (k.told === "coach" && k.order < old) await this.store.dropReport(k.id);
  }
}
