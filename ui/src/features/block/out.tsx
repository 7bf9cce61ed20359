import { plural, t } from "@lingui/core/macro";
import { useMutation, useQuery } from "@tanstack/react-query";
import { Popover } from "radix-ui";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, freshKey, need, type Schema } from "../../api/client";
import { useBench, useKeepBlock } from "../../api/hooks";
import { SaveState } from "../../parts/states";
import type { Block } from "./change";

/** Print, files, the calendar address, and the way to another runner. */
export function Out({ b }: { b: Block }) {
  return (
    <Popover.Root>
      <Popover.Trigger className="btn">{t`Export or share`}</Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          className="panel max-h-[80vh] w-[min(26rem,92vw)] overflow-auto"
          sideOffset={6}
          align="end"
          aria-label={t`Export or share`}
          collisionPadding={12}
        >
          <h3 className="mb-2">{t`Paper and files`}</h3>
          <div className="grid grid-cols-2 gap-2">
            <Link className="btn" to={`/runners/${b.runnerId}/print`}>
              {t`Print`}
            </Link>
            <a className="btn" href={`/api/blocks/${b.id}/files/pdf`} download>
              {t`PDF`}
            </a>
            <a className="btn" href={`/api/blocks/${b.id}/files/ics`} download>
              {t`Calendar file`}
            </a>
            <a className="btn" href={`/api/blocks/${b.id}/files/csv`} download>
              {t`Table, CSV`}
            </a>
          </div>
          <Feed runner={b.runnerId} />
          <Copy b={b} />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

function Feed({ runner }: { runner: string }) {
  const feeds = useQuery({
    queryKey: ["feeds", runner],
    queryFn: () => need(api.GET("/api/runners/{id}/calendar", { params: { path: { id: runner } } })),
  });
  const add = useMutation({
    mutationFn: () => need(api.POST("/api/runners/{id}/calendar", { params: { path: { id: runner } } })),
    onSuccess: () => void feeds.refetch(),
  });
  const end = useMutation({
    mutationFn: () => need(api.DELETE("/api/runners/{id}/calendar", { params: { path: { id: runner } } })),
    onSuccess: () => {
      add.reset();
      void feeds.refetch();
    },
  });
  const live = feeds.data?.live ?? 0;
  return (
    <section aria-label={t`Calendar address`} className="mt-4 border-t border-rule pt-3">
      <h3>{t`Calendar address`}</h3>
      <p className="text-[14px] text-ink-2">
        {t`A calendar that looks at this address always has the newest plan. ${live > 0 ? t`${live} ${plural(live, { one: "address works", other: "addresses work" })} now.` : ""}`}
      </p>
      {add.data?.path && (
        <p className="mt-2">
          <label>
            <span className="block text-[13px] text-ink-2">{t`Copy it now; it is not shown again.`}</span>
            <input
              className="field"
              readOnly
              value={`${location.origin}${add.data.path}`}
              onFocus={(e) => e.target.select()}
            />
          </label>
        </p>
      )}
      <p className="mt-2 flex gap-3">
        <button type="button" className="btn min-h-8" disabled={add.isPending} onClick={() => add.mutate()}>
          {t`Make an address`}
        </button>
        {live > 0 && (
          <button type="button" className="btn min-h-8" disabled={end.isPending} onClick={() => end.mutate()}>
            {t`End all`}
          </button>
        )}
      </p>
      <SaveState error={add.error ?? end.error} saving={false} />
    </section>
  );
}

function Copy({ b }: { b: Block }) {
  const list = useBench("");
  const [to, setTo] = useState("");
  const go = useNavigate();
  const keep = useKeepBlock();
  const [key] = useState(freshKey);
  const ask = (runnerId: string, preview: boolean): Promise<Schema["Copied"]> =>
    need(
      api.POST("/api/blocks/{id}/copy", {
        params: { path: { id: b.id }, header: preview ? {} : { "Idempotency-Key": key } },
        body: { runnerId, preview },
      }),
    );
  const look = useQuery({
    queryKey: ["copy", b.id, b.revision, to],
    enabled: !!to,
    retry: false,
    queryFn: () => ask(to, true),
  });
  const make = useMutation({
    mutationFn: () => ask(to, false),
    onSuccess: (c) => {
      if (c.block) keep(c.block);
      go(`/runners/${to}/block`);
    },
  });
  return (
    <section aria-label={t`Same for another runner`} className="mt-4 border-t border-rule pt-3">
      <h3>{t`Same for another runner`}</h3>
      <p className="text-[14px] text-ink-2">
        {t`The same ladders, fitted again to that runner's tests, gates, kit and week.`}
      </p>
      <select
        className="field mt-2"
        aria-label={t`Runner who gets this block`}
        value={to}
        onChange={(e) => setTo(e.target.value)}
      >
        <option value="">{t`choose a runner`}</option>
        {list.data?.pages
          .flatMap((p) => p.items)
          .filter((i) => i.id !== b.runnerId)
          .map((i) => (
            <option key={i.id} value={i.id}>
              {i.name}
            </option>
          ))}
      </select>
      {look.error && (
        <p role="alert" className="mt-2 text-[14px] text-clay">
          ▲ {look.error.message}
        </p>
      )}
      {look.data && (
        <div className="mt-2 text-[14px]">
          <p>
            {t`${look.data.plan.choices.length} ladders, ${look.data.plan.minutes.planned} min a week${!look.data.plan.fits ? t`; it does not fit that runner's week` : ""}.`}
          </p>
          <ul className="list-disc pl-5">
            {look.data.notes.map((n) => (
              <li key={n}>{n}</li>
            ))}
          </ul>
          <button
            type="button"
            className="btn mt-2 min-h-8"
            disabled={!look.data.plan.fits || make.isPending}
            onClick={() => make.mutate()}
          >
            {t`Make it; it replaces that runner's block`}
          </button>
          <SaveState error={make.error} saving={make.isPending} />
        </div>
      )}
    </section>
  );
}
