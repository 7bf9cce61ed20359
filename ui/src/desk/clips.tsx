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
      {c.ready ? (
        <Link
          className="min-w-48 font-semibold underline decoration-rule underline-offset-4"
          to={`/clips/${c.id}`}
        >
          {c.name}
        </Link>
      ) : (
        <span className="min-w-48 font-semibold">{c.name}</span>
      )}
      <span className="text-[14px] text-ink-2">
        {c.ready
          ? `${c.kind}${c.times.length > 0 ? `, ${c.times.length} frames` : ""}, ${mib(c.size)}`
          : `not whole: ${mib(c.received)} of ${mib(c.size)}; bring the file in again`}
      </span>
      <span className="text-[14px]">
        {c.marks.moments.length > 0 && `${c.marks.moments.length} moments marked`}
        {c.marks.events.length > 0 && ` ${c.marks.events.length} events`}
      </span>
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
        await bringIn(screening, f, (share) => say(i, { share }), stop.current.signal);
        say(i, { share: 1, text: "taken in" });
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
        <label className="btn btn-main has-focus-visible:outline-3 has-focus-visible:outline-offset-2 has-focus-visible:outline-ink">
          Choose clips or photos
          <input
            type="file"
            multiple
            accept="video/*,image/*"
            className="sr-only"
            disabled={busy}
            onChange={(e) => {
              void take([...(e.target.files ?? [])]);
              e.target.value = "";
            }}
          />
        </label>
        <p className="text-ink-2">
          or drag them here; MP4, WebM, JPEG or PNG, up to 300 MiB. A tablet's camera opens from here too.
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

const problem = (e: unknown) => {
  const p = e as Error & { fields?: Schema["ErrorModel"]["errors"] };
  const first = Object.values((p.fields ?? {}) as Record<string, string>)[0];
  return first ?? p.message;
};
