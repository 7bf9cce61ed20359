import { t } from "@lingui/core/macro";
import { useState } from "react";
import { Link } from "react-router";
import { api, need } from "../../api/client";
import { Source } from "../../parts/reasons";
import { SaveState } from "../../parts/states";
import { BigPicture } from "./big";
import { capital, type Ladder, placeName, type Shelf, tissueName, useShelfChange } from "./hooks";
import { ShelfRail } from "./rail";

export function Marks({ x }: { x: { own?: boolean; rev: number; retired: boolean } }) {
  return (
    <>
      {x.own && <Tag>{t`our own`}</Tag>}
      {x.retired && <Tag>{t`retired`}</Tag>}
    </>
  );
}

const Tag = ({ children }: { children: string }) => (
  <span className="ml-2 rounded-[3px] border border-edge px-1.5 align-middle font-sans text-[12px] font-normal text-ink-2">
    {children}
  </span>
);

export function LadderRow({ l, s }: { l: Ladder; s: Shelf }) {
  const [at, setAt] = useState(1);
  const notch = l.notches[at - 1];
  const e = s.exercises.find((x) => x.id === notch?.exercise);
  const kit = l.equipment.map((k) => s.kit.find((x) => x.id === k)?.name ?? k);
  return (
    <article
      aria-label={l.name}
      className={`grid gap-x-6 gap-y-2 border-b border-rule py-4 lg:grid-cols-[minmax(0,17rem)_minmax(0,1fr)_10rem] ${l.retired ? "opacity-70" : ""}`}
    >
      <div>
        <h3>
          {l.name}
          <Marks x={l} />
        </h3>
        <p className="text-[14px] text-ink-2">
          {capital(l.purpose)}, {placeName[l.place]}, {l.perWeek}
          {l.tissues.length > 0 &&
            t`. Loads ${l.tissues.map((tissue) => tissueName[tissue] ?? tissue).join(", ")}`}
          {kit.length > 0 && <>{t`. Needs ${kit.join(", ")}`}</>}.
        </p>
        <details className="mt-1 text-[14px]">
          <summary className="text-ink-2 underline decoration-rule underline-offset-4">
            {t`Where it starts, and sources`}
          </summary>
          <ul className="mt-1 list-disc pl-5">
            {l.startWords.map((w) => (
              <li key={w}>{w}</li>
            ))}
          </ul>
          <Source text={l.sourceText} />
          {l.weights && <p className="text-[13px] text-ink-2">{t`Tissue weights: ${l.weights}`}</p>}
        </details>
        <p className="mt-1 flex flex-wrap gap-x-3">
          <Link className="btn-quiet" to={`/shelf/ladders/${l.id}`} aria-label={t`change: ${l.name}`}>
            {t`Change`}
          </Link>
          <Retire kind="ladder" x={l} />
        </p>
      </div>
      <div className="min-w-0">
        <ShelfRail ladder={l} at={at} onPick={setAt} />
        {e && (
          <div className="mt-1 text-[14px]">
            <p>
              <b>{e.name}.</b> {e.setUp}
              {notch?.more && ` ${capital(notch.more)}.`}
            </p>
            <p className="text-ink-2">
              {e.cues.join(" · ")}
              {notch?.tempo && ` · ${notch.tempo}`}
            </p>
            <p className="text-ink-2">
              {notch && t`${Math.max(1, Math.round(notch.minutes))} min`}
              {notch?.gap48 && t` · a whole day between two of the same tissue`}
              {notch?.load && ` · ${notch.load}`}
            </p>
          </div>
        )}
      </div>
      <div className="lg:justify-self-end">{e && <BigPicture e={e} notch={notch} />}</div>
    </article>
  );
}

/** Out of new plans, or back in. */
export function Retire({
  kind,
  x,
}: {
  kind: "ladder" | "exercise" | "routine";
  x: { id: string; name: string; rev: number; retired: boolean };
}) {
  const put = useShelfChange((retired: boolean) =>
    need(api.POST("/api/shelf/retired", { body: { kind, item: x.id, rev: x.rev, retired } })),
  );
  return (
    <>
      <button
        type="button"
        className="btn-quiet"
        disabled={put.isPending}
        aria-label={`${x.retired ? t`bring back` : "retire"}: ${x.name}`}
        onClick={() => put.mutate(!x.retired)}
      >
        {x.retired ? t`bring back` : t`retire`}
      </button>
      <SaveState error={put.error} saving={put.isPending} />
    </>
  );
}
