import { plural, t } from "@lingui/core/macro";
import { useRef, useState } from "react";
import { createPortal } from "react-dom";
import { NoConnection, type Schema } from "../../api/client";
import { newId } from "../../api/id";
import { Title } from "../../parts/marks";
import { StandIns } from "../../parts/standins";
import { MapColumns } from "./columns";
import { useTouch } from "./hooks";
import { Imports } from "./imports";
import { Preview } from "./preview";

export type Seen = {
  key: string;
  file: File;
  result?: Schema["ImportResult"];
  error?: string;
  mapping?: Schema["Mapping"];
  /** What happened, once it was taken in. */
  done?: string;
};
/** Answers by file and place. */
export type Answers = Record<string, "run" | "walk" | "out">;

type Ask = {
  preview?: boolean;
  mapping?: Schema["Mapping"];
  choices?: Record<string, string>;
  import?: string;
};

/** Sends a file to be looked at or taken in; what is wrong with it is said. */
async function send(
  id: string,
  file: File,
  ask: Ask,
): Promise<{ result?: Schema["ImportResult"]; error?: string }> {
  const query = new URLSearchParams({ name: file.name });
  if (ask.preview) query.set("preview", "true");
  if (ask.import) query.set("import", ask.import);
  if (ask.mapping) query.set("mapping", JSON.stringify(ask.mapping));
  if (ask.choices && Object.keys(ask.choices).length > 0) query.set("choices", JSON.stringify(ask.choices));
  try {
    const res = await fetch(`/api/runners/${id}/run-files?${query}`, {
      method: "POST",
      headers: { "Content-Type": "application/octet-stream" },
      body: file,
    }).catch(() => {
      throw new NoConnection();
    });
    const body = (await res.json().catch(() => ({}))) as Schema["ImportResult"] & Schema["ErrorModel"];
    if (res.ok) return { result: body };
    if (res.status === 413)
      return { error: t`${file.name} is too large; a file may have 25 MB, a packed one 64` };
    return { error: body.errors?.[0]?.message ?? body.detail ?? t`this file could not be read` };
  } catch (e) {
    return { error: (e as Error).message };
  }
}

/** Looks at files first, says what they are, and takes in what counts. */
export function Bring({ id, place }: { id: string; place: HTMLElement | null }) {
  const [seen, setSeen] = useState<Seen[]>([]);
  const [answers, setAnswers] = useState<Answers>({});
  const [busy, setBusy] = useState<{ what: string; done: number; of: number } | null>(null);
  const [over, setOver] = useState(false);
  const [said, setSaid] = useState("");
  const stop = useRef(false);
  const touch = useTouch(id);
  const put = (x: Seen) => setSeen((list) => list.map((y) => (y.key === x.key ? x : y)));
  const look = async (x: Seen) =>
    put({ ...x, ...(await send(id, x.file, { preview: true, mapping: x.mapping })) });
  const each = async (what: string, list: Seen[], fn: (x: Seen) => Promise<void>) => {
    stop.current = false;
    setBusy({ what, done: 0, of: list.length });
    for (const [i, x] of list.entries()) {
      if (stop.current) break;
      await fn(x);
      setBusy({ what, done: i + 1, of: list.length });
    }
    setBusy(null);
  };
  const take = async (files: File[]) => {
    if (files.length === 0) return;
    const list = files.map((file, i) => ({ key: `${Date.now()}-${i}`, file }));
    setSaid("");
    setAnswers({});
    setSeen(list);
    await each(t`looked at`, list, look);
    // Once what was found stands there.
    requestAnimationFrame(() => requestAnimationFrame(() => place?.scrollIntoView({ block: "start" })));
  };
  const accept = async (list: Seen[]) => {
    const all = newId();
    let added = 0;
    let walks = 0;
    let left = 0;
    await each(t`taken in`, list, async (x) => {
      const choices = Object.fromEntries(
        (x.result?.outings ?? []).flatMap((o) => {
          const a = answers[`${x.key}/${o.place}`];
          return a ? [[o.place, a]] : [];
        }),
      );
      const got = await send(id, x.file, { mapping: x.mapping, choices, import: all });
      added += got.result?.added ?? 0;
      walks += got.result?.walks ?? 0;
      left += got.result?.asked ?? 0;
      put({ ...x, ...got, result: got.result ?? x.result, done: got.error ?? t`taken in` });
    });
    setSeen((rest) => rest.filter((y) => !list.some((x) => x.key === y.key)));
    setSaid(
      t`${added} ${plural(added, { one: "run", other: "runs" })} taken in${walks ? t`, ${walks} kept as ${plural(walks, { one: "a walk", other: "walks" })}` : ""}${left ? t`; ${left} left out without an answer` : ""}.`,
    );
    touch();
  };
  const ready = seen.filter((x) => x.result && !x.result.table);
  return (
    <section aria-label={t`Import runs`} className="mb-6">
      <Title>{t`Import runs`}</Title>
      {/* biome-ignore lint/a11y/noStaticElementInteractions: a place to drop files; the buttons beneath do the same */}
      <div
        className={`border-2 border-dashed p-4 text-center ${over ? "border-ink bg-paper" : "border-edge"}`}
        onDragOver={(e) => {
          e.preventDefault();
          setOver(true);
        }}
        onDragLeave={() => setOver(false)}
        onDrop={(e) => {
          e.preventDefault();
          setOver(false);
          void dropped(e.dataTransfer).then(take);
        }}
      >
        <p className="mb-2 text-[14px]">
          {t`Drop files or a folder: FIT, GPX, TCX, CSV, also packed as ZIP or GZ`}
        </p>
        <div className="flex flex-wrap justify-center gap-2">
          <Pick label={t`Choose files`} onFiles={take} />
          <Pick label={t`Choose a folder`} folder onFiles={take} />
        </div>
        <StandIns kind="runs" busy={!!busy} take={take} />
      </div>
      {busy && (
        <div className="mt-2 flex items-center gap-3">
          <progress
            className="grow accent-[var(--ink)]"
            value={busy.done}
            max={busy.of}
            aria-label={t`Files ${busy.what}`}
          />
          <span role="status">{t`${busy.done} of ${busy.of} ${busy.what}`}</span>
          <button
            type="button"
            className="btn-quiet"
            onClick={() => {
              stop.current = true;
            }}
          >
            {t`Stop`}
          </button>
        </div>
      )}
      {said && (
        <p role="status" className="mt-2">
          {said}
        </p>
      )}
      {seen
        .filter((x) => x.error || x.result?.table)
        .map((x) => (
          <div key={x.key} className="mt-2 border-b border-rule py-1 text-[14px]">
            <b className="break-all">{x.file.name}</b>{" "}
            {x.error && (
              <span className="text-clay">
                <span aria-hidden="true">▲ </span>
                {x.error}
              </span>
            )}
            {x.result?.table && (
              <MapColumns t={x.result.table} done={(mapping) => look({ ...x, mapping, result: undefined })} />
            )}
          </div>
        ))}
      {ready.length > 0 &&
        place &&
        createPortal(
          <Preview
            id={id}
            seen={ready}
            answers={answers}
            answer={(key, a) => setAnswers((was) => ({ ...was, [key]: a }))}
            accept={(list) => void accept(list)}
            drop={() => {
              setSeen([]);
              setAnswers({});
            }}
            busy={busy !== null}
          />,
          place,
        )}
      <Imports id={id} />
    </section>
  );
}

/** Every file of what was dropped, folders opened. */
async function dropped(it: DataTransfer): Promise<File[]> {
  const entries = [...it.items].map((i) => i.webkitGetAsEntry?.()).filter((e) => !!e);
  const out: File[] = [];
  const walk = async (e: FileSystemEntry): Promise<void> => {
    if (e.isFile) {
      out.push(await new Promise<File>((ok, no) => (e as FileSystemFileEntry).file(ok, no)));
      return;
    }
    const reader = (e as FileSystemDirectoryEntry).createReader();
    for (;;) {
      const list = await new Promise<FileSystemEntry[]>((ok, no) => reader.readEntries(ok, no));
      if (list.length === 0) return;
      for (const x of list) await walk(x);
    }
  };
  for (const e of entries) await walk(e);
  return out.length > 0 ? out : [...it.files];
}

function Pick({ label, folder, onFiles }: { label: string; folder?: boolean; onFiles: (f: File[]) => void }) {
  return (
    <label className="btn has-focus-visible:outline-3 has-focus-visible:outline-offset-2 has-focus-visible:outline-ink">
      {label}
      <input
        type="file"
        multiple
        className="sr-only"
        aria-label={label}
        ref={(el) => {
          if (folder) el?.setAttribute("webkitdirectory", "");
        }}
        onChange={(e) => {
          const list = [...(e.target.files ?? [])];
          e.target.value = "";
          onFiles(list);
        }}
      />
    </label>
  );
}
