import { useRef, useState } from "react";
import { NoConnection, type Schema } from "../../api/client";
import { Title } from "../../parts/marks";
import { MapColumns } from "./columns";
import { useTouch } from "./hooks";

type Result = { name: string; text: string; bad?: boolean; table?: Schema["Table"]; file?: File };

/** Takes in files one after the other, each whole or not at all. */
export function Bring({ id }: { id: string }) {
  const [results, setResults] = useState<Result[]>([]);
  const [busy, setBusy] = useState<{ done: number; of: number } | null>(null);
  const [over, setOver] = useState(false);
  const stop = useRef(false);
  const touch = useTouch(id);
  const one = async (file: File, mapping?: Schema["Mapping"]): Promise<Result> => {
    try {
      const query = new URLSearchParams({ name: file.name });
      if (mapping) query.set("mapping", JSON.stringify(mapping));
      const res = await fetch(`/api/runners/${id}/run-files?${query}`, {
        method: "POST",
        headers: { "Content-Type": "application/octet-stream" },
        body: file,
      }).catch(() => {
        throw new NoConnection();
      });
      const body = (await res.json().catch(() => ({}))) as Schema["ImportResult"] & Schema["ErrorModel"];
      if (!res.ok) {
        const why =
          res.status === 413
            ? `${file.name} is too large; up to 25 MB are read`
            : (body.errors?.[0]?.message ?? body.detail ?? "this file could not be read");
        return { name: file.name, text: why, bad: true };
      }
      if (body.table) return { name: file.name, text: "map its columns first", table: body.table, file };
      const parts = [`${body.added} taken in`];
      if (body.known) parts.push(`${body.known} there already`);
      return { name: file.name, text: [...parts, ...body.notes].join("; ") };
    } catch (e) {
      return { name: file.name, text: (e as Error).message, bad: true };
    }
  };
  const take = async (files: File[]) => {
    if (files.length === 0) return;
    stop.current = false;
    setResults([]);
    setBusy({ done: 0, of: files.length });
    for (const [i, f] of files.entries()) {
      if (stop.current) break;
      const r = await one(f);
      setResults((list) => [...list, r]);
      setBusy({ done: i + 1, of: files.length });
    }
    setBusy(null);
    touch();
  };
  return (
    <section aria-label="Bring in runs" className="mb-6">
      <Title>Bring in runs</Title>
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
        <p className="mb-2 text-[14px]">Drop files or a folder: FIT, GPX, TCX, CSV</p>
        <div className="flex flex-wrap justify-center gap-2">
          <Pick label="Choose files" onFiles={take} />
          <Pick label="Choose a folder" folder onFiles={take} />
        </div>
      </div>
      {busy && (
        <div className="mt-2 flex items-center gap-3">
          <progress
            className="grow accent-[var(--ink)]"
            value={busy.done}
            max={busy.of}
            aria-label="Files read"
          />
          <span role="status">
            {busy.done} of {busy.of}
          </span>
          <button
            type="button"
            className="btn-quiet"
            onClick={() => {
              stop.current = true;
            }}
          >
            stop
          </button>
        </div>
      )}
      {results.length > 0 && (
        <ul className="mt-2 text-[14px]" aria-label="What became of each file">
          {results.map((r) => (
            <li key={r.name} className="border-b border-rule py-1">
              <b className="break-all">{r.name}</b>{" "}
              <span className={r.bad ? "text-clay" : "text-ink-2"}>
                {r.bad && <span aria-hidden="true">▲ </span>}
                {r.text}
              </span>
              {r.table && r.file && (
                <MapColumns
                  t={r.table}
                  done={async (m) => {
                    const next = await one(r.file as File, m);
                    setResults((list) => list.map((x) => (x === r ? next : x)));
                    touch();
                  }}
                />
              )}
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}

/** Every file of what was dropped, folders opened. */
async function dropped(t: DataTransfer): Promise<File[]> {
  const entries = [...t.items].map((i) => i.webkitGetAsEntry?.()).filter((e) => !!e);
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
  return out.length > 0 ? out : [...t.files];
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
