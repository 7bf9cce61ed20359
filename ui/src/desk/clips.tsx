import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Link, useParams } from "react-router";
import { api, need, type Schema } from "../api/client";
import { useScreening } from "../api/hooks";
import { weekDay } from "../parts/dates";
import { Title } from "../parts/marks";
import { Empty, Failed, Loading, SaveState } from "../parts/states";
import { bringIn, type Clip } from "./upload";

export const useClips = (screening: string) =>
  useQuery({
    queryKey: ["clips", screening],
    queryFn: () => need(api.GET("/api/screenings/{id}/clips", { params: { path: { id: screening } } })),
    refetchInterval: (q) => (q.state.data?.items.some((c) => c.turning && !c.turning.error) ? 500 : false),
  });

/** Clips and photos of a screening: bring some in, open one on the desk. */
export function ClipsView() {
  const { id = "" } = useParams();
  const s = useScreening(id);
  const list = useClips(id);
  if (s.isPending || list.isPending) return <Loading what="the clips" />;
  if (s.error) return <Failed error={s.error} retry={() => void s.refetch()} />;
  if (list.error) return <Failed error={list.error} retry={() => void list.refetch()} />;
  return (
    <>
      <div className="mb-4 flex flex-wrap items-end gap-x-5 gap-y-2">
        <h1>
          <Link to={`/runners/${s.data.runnerId}`} className="hover:underline">
            {s.data.runnerName}
          </Link>
        </h1>
        <p className="text-ink-2">Clips of the screening, {weekDay(s.data.on)}</p>
        <Link className="btn-quiet ml-auto" to={`/screenings/${id}`}>
          the screening
        </Link>
      </div>
      <Bring screening={id} />
      {list.data.items.length === 0 ? (
        <Empty title="No clip yet">
          Film square-on, at hip height, from 4 m or more; six steps or more, as many frames a second as the
          camera has. A photo does for ankle and big toe.
        </Empty>
      ) : (
        <section aria-label="Clips" className="mt-6">
          <Title>Clips and photos</Title>
          <ul>
            {list.data.items.map((c) => (
              <Row key={c.id} c={c} />
            ))}
          </ul>
        </section>
      )}
    </>
  );
}

const mib = (n: number) => `${(n / 2 ** 20).toFixed(1)} MiB`;

function Row({ c }: { c: Clip }) {
  const qc = useQueryClient();
  const [sure, setSure] = useState(false);
  const gone = useMutation({
    mutationFn: () => need(api.DELETE("/api/clips/{id}", { params: { path: { id: c.id } } })),
    onSuccess: () => void qc.invalidateQueries({ queryKey: ["clips", c.screeningId] }),
  });
  return (
    <li className="flex flex-wrap items-center gap-x-5 gap-y-1 border-b border-rule py-2.5">
      {c.thumb ? (
        <img
          src={`/api/clips/${c.id}/thumb`}
          alt=""
          loading="lazy"
          className="h-14 w-25 bg-ink object-contain"
        />
      ) : (
        <span
          aria-hidden="true"
          className="grid h-14 w-25 place-items-center bg-paper text-[13px] text-ink-2"
        >
          {c.kind === "markers" ? "markers" : ""}
        </span>
      )}
      {c.ready ? (
        <Link
          className="min-w-40 font-semibold underline decoration-rule underline-offset-4"
          to={`/clips/${c.id}`}
        >
          {c.name}
        </Link>
      ) : (
        <span className="min-w-40 font-semibold">{c.name}</span>
      )}
      <span className="text-[14px] text-ink-2">
        <State c={c} />
      </span>
      <span className="text-[14px]">
        {c.marks.moments.length > 0 && `${c.marks.moments.length} moments marked`}
        {c.marks.events.length > 0 && ` ${c.marks.events.length} events`}
      </span>
      {c.ready && (
        <Link className="btn-quiet" to={`/clips/${c.id}/beside`} aria-label={`${c.name} beside another`}>
          beside another
        </Link>
      )}
      <span className="ml-auto">
        {sure ? (
          <>
            For good, with its marks?{" "}
            <button type="button" className="btn min-h-8" onClick={() => gone.mutate()}>
              Delete
            </button>{" "}
            <button type="button" className="btn-quiet" onClick={() => setSure(false)}>
              keep it
            </button>
          </>
        ) : (
          <button
            type="button"
            className="btn-quiet"
            aria-label={`Delete ${c.name}`}
            onClick={() => setSure(true)}
          >
            delete
          </button>
        )}
      </span>
      <SaveState error={gone.error} saving={gone.isPending} />
    </li>
  );
}

/** What a clip is, or how far it is on its way. */
function State({ c }: { c: Clip }) {
  const qc = useQueryClient();
  const again = useMutation({
    mutationFn: () => need(api.POST("/api/clips/{id}/finish", { params: { path: { id: c.id } } })),
    onSettled: () => void qc.invalidateQueries({ queryKey: ["clips", c.screeningId] }),
  });
  if (c.ready && c.kind === "markers") return `markers, ${c.frames} frames at ${c.rate} Hz, ${mib(c.size)}`;
  if (c.ready)
    return `${c.kind}${c.times.length > 0 ? `, ${c.times.length} frames` : ""}, ${mib(c.size)}${c.converted ? ", turned into MP4" : ""}`;
  if (c.turning?.error) return <span className="text-clay">▲ {c.turning.error}</span>;
  if (c.turning)
    return (
      <span className="flex items-center gap-2">
        <progress
          className="w-32"
          aria-label={`${c.name}: turned into what browsers show`}
          value={c.turning.share}
          max={1}
        />
        being turned into what browsers show; delete stops it
      </span>
    );
  if (c.received === c.size)
    return (
      <>
        whole, but not looked at yet{" "}
        <button type="button" className="btn-quiet" disabled={again.isPending} onClick={() => again.mutate()}>
          go on
        </button>{" "}
        {again.error && <span className="text-clay">{problem(again.error)}</span>}
      </>
    );
  return `not whole: ${mib(c.received)} of ${mib(c.size)}; bring the file in again`;
}

type Going = { name: string; share: number; text?: string; bad?: boolean };

function Bring({ screening }: { screening: string }) {
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
          text: c.ready ? "taken in" : "taken in; it is being turned into what browsers show",
        });
      } catch (e) {
        const text = stop.current.signal.aborted ? "stopped; nothing of it was kept" : problem(e);
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
      aria-label="Bring in"
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
          label="Choose clips or photos"
          accept="video/*,image/*,.trc"
          busy={busy}
          take={take}
          multiple
        />
        <Pick label="Film now" accept="video/*" capture="environment" busy={busy} take={take} />
        <Pick label="Photograph now" accept="image/*" capture="environment" busy={busy} take={take} />
        <p className="text-ink-2">
          or drag them here: MP4, WebM, MOV and what can be turned into them, JPEG, PNG, marker files (TRC);
          up to 300 MiB.
        </p>
        {busy && (
          <button type="button" className="btn ml-auto" onClick={() => stop.current?.abort()}>
            Stop
          </button>
        )}
      </div>
      <ul aria-label="What became of each" className="mt-2">
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

const problem = (e: unknown) => {
  const p = e as Error & { fields?: Schema["ErrorModel"]["errors"] };
  const first = Object.values((p.fields ?? {}) as Record<string, string>)[0];
  return first ?? p.message;
};
