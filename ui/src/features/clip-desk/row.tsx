import { plural, t } from "@lingui/core/macro";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, need } from "../../api/client";
import { SaveState } from "../../parts/states";
import { problem } from "./bring";
import type { Clip } from "./upload";

const mib = (n: number) =>
  n < 2 ** 20 / 10 ? t`${Math.ceil(n / 1024)} KiB` : t`${(n / 2 ** 20).toFixed(1)} MiB`;

export function Row({ c }: { c: Clip }) {
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
          {c.kind === "markers" ? t`markers` : ""}
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
        {c.marks.moments.length > 0 &&
          plural(c.marks.moments.length, { one: "# moment marked", other: "# moments marked" })}
        {c.marks.events.length > 0 &&
          ` ${plural(c.marks.events.length, { one: "# event", other: "# events" })}`}
      </span>
      {c.ready && (
        <Link className="btn-quiet" to={`/clips/${c.id}/beside`} aria-label={t`${c.name} beside another`}>
          {t`Beside another`}
        </Link>
      )}
      <span className="ml-auto">
        {sure ? (
          <>
            {t`For good, with its marks? `}
            <button type="button" className="btn min-h-8" onClick={() => gone.mutate()}>
              {t`Delete`}
            </button>{" "}
            <button type="button" className="btn-quiet" onClick={() => setSure(false)}>
              {t`Keep it`}
            </button>
          </>
        ) : (
          <button
            type="button"
            className="btn-quiet"
            aria-label={t`Delete ${c.name}`}
            onClick={() => setSure(true)}
          >
            {t`Delete`}
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
  if (c.ready && c.kind === "markers")
    return t`markers, ${c.frames ?? ""} frames at ${c.rate ?? ""} Hz, ${mib(c.size)}`;
  if (c.ready)
    return `${c.kind}${c.times.length > 0 ? t`, ${c.times.length} frames` : ""}, ${mib(c.size)}${c.converted ? t`, turned into MP4` : ""}`;
  if (c.turning?.error) return <span className="text-clay">▲ {c.turning.error}</span>;
  if (c.turning)
    return (
      <span className="flex items-center gap-2">
        <progress
          className="w-32"
          aria-label={t`${c.name}: turned into what browsers show`}
          value={c.turning.share}
          max={1}
        />
        {t`being turned into what browsers show; delete stops it`}
      </span>
    );
  if (c.received === c.size)
    return (
      <>
        {t`whole, but not looked at yet `}
        <button type="button" className="btn-quiet" disabled={again.isPending} onClick={() => again.mutate()}>
          {t`Go on`}
        </button>{" "}
        {again.error && <span className="text-clay">{problem(again.error)}</span>}
      </>
    );
  return t`not whole: ${mib(c.received)} of ${mib(c.size)} are here; bring the same file in again and it goes on`;
}

export type Going = { name: string; share: number; text?: string; bad?: boolean };
