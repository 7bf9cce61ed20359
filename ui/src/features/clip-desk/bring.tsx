import { t } from "@lingui/core/macro";
import { useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Problem, type Schema } from "../../api/client";
import { StandIns } from "../../parts/standins";
import type { Going } from "./row";
import { bringIn } from "./upload";

export function Bring({ screening }: { screening: string }) {
  const qc = useQueryClient();
  const [going, setGoing] = useState<Going[]>([]);
  const [over, setOver] = useState(false);
  const stop = useRef<AbortController | null>(null);
  const take = async (files: File[]) => {
    stop.current = new AbortController();
    setGoing(files.map((f) => ({ name: f.name, share: 0 })));
    const say = (i: number, part: Partial<Going>) =>
      setGoing((g) => g.map((x, k) => (k === i ? { ...x, ...part } : x)));
    for (const [i, f] of files.entries()) {
      try {
        const long = await secondsOf(f);
        if (long > longest)
          throw new Error("a clip of hours can't be stepped through; cut it to a few strides first");
        const c = await bringIn(screening, f, (share) => say(i, { share }), stop.current.signal);
        say(i, {
          share: 1,
          text: c.known
            ? t`is here already, as ${c.name}`
            : c.ready
              ? t`taken in`
              : t`taken in; it is being turned into what browsers show`,
        });
      } catch (e) {
        const text = stop.current.signal.aborted
          ? t`stopped; nothing of it was kept`
          : e instanceof Problem
            ? problem(e)
            : t`${problem(e)} What came is kept: bring the same file in again and it goes on.`;
        say(i, { text, bad: true });
        if (stop.current.signal.aborted) break;
      }
      void qc.invalidateQueries({ queryKey: ["clips", screening] });
    }
    stop.current = null;
  };
  const busy = going.some((g) => !g.text);
  return (
    <section
      aria-label={t`Bring in`}
      className={`border-2 border-dashed p-5 ${over ? "border-ink bg-paper" : "border-edge"}`}
      onDragOver={(e) => {
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        e.preventDefault();
        setOver(false);
        void take([...e.dataTransfer.files]);
      }}
    >
      <div className="flex flex-wrap items-center gap-4">
        <Pick
          main
          label={t`Choose clips or photos`}
          accept="video/*,image/*,.heic,.heif,.avif,.trc"
          busy={busy}
          take={take}
          multiple
        />
        <Pick label={t`Film now`} accept="video/*" capture="environment" busy={busy} take={take} />
        <Pick label={t`Photograph now`} accept="image/*" capture="environment" busy={busy} take={take} />
        <p className="text-ink-2">
          {t`or drag them here: MP4, WebM, MOV and what can be turned into them, JPEG, PNG, marker files (TRC); up to 300 MiB.`}
        </p>
        {busy && (
          <button type="button" className="btn ml-auto" onClick={() => stop.current?.abort()}>
            {t`Stop`}
          </button>
        )}
      </div>
      <StandIns kind="clip" busy={busy} take={take} />
      <ul aria-label={t`What became of each`} className="mt-2">
        {going.map((g) => (
          <li key={g.name} className="flex items-center gap-3">
            <b>{g.name}</b>
            {g.text ? (
              <span className={g.bad ? "text-clay" : "text-pine"}>{g.bad ? `▲ ${g.text}` : g.text}</span>
            ) : (
              <progress className="w-48" aria-label={g.name} value={g.share} max={1} />
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}

/** Seconds; longer files are refused before they are sent. */
const longest = 3600;

/** How long a clip plays, 0 where this browser can't tell. */
function secondsOf(f: File): Promise<number> {
  if (!f.type.startsWith("video/")) return Promise.resolve(0);
  return new Promise((done) => {
    const v = document.createElement("video");
    const src = URL.createObjectURL(f);
    const say = (n: number) => {
      clearTimeout(late);
      URL.revokeObjectURL(src);
      done(Number.isFinite(n) ? n : 0);
    };
    const late = setTimeout(() => say(0), 3000);
    v.preload = "metadata";
    v.onloadedmetadata = () => say(v.duration);
    v.onerror = () => say(0);
    v.src = src;
  });
}

/** A button that picks files; with capture it opens a tablet's camera. */
function Pick({
  label,
  accept,
  capture,
  multiple,
  main,
  busy,
  take,
}: {
  label: string;
  accept: string;
  capture?: "environment";
  multiple?: boolean;
  main?: boolean;
  busy: boolean;
  take: (files: File[]) => Promise<void>;
}) {
  return (
    <label
      className={`btn ${main ? "btn-main" : "pointer-fine:hidden"} has-focus-visible:outline-3 has-focus-visible:outline-offset-2 has-focus-visible:outline-ink`}
    >
      {label}
      <input
        type="file"
        multiple={multiple}
        accept={accept}
        capture={capture}
        className="sr-only"
        disabled={busy}
        onChange={(e) => {
          void take([...(e.target.files ?? [])]);
          e.target.value = "";
        }}
      />
    </label>
  );
}

export const problem = (e: unknown) => {
  const p = e as Error & { fields?: Schema["ErrorModel"]["errors"] };
  const first = Object.values((p.fields ?? {}) as Record<string, string>)[0];
  return first ?? p.message;
};
