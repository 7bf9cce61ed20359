import { t } from "@lingui/core/macro";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useEffect, useRef, useState } from "react";
import { Link, useLocation, useNavigate } from "react-router";
import { api, freshKey, need } from "../api/client";
import { barQuery } from "../api/hooks";
import { useKeys } from "./keys";
import { shown, unit } from "./measures";
import { type Bar, type Place, placeOf, places, stateOf } from "./places";
import { SaveState } from "./states";
import { usePageTitle } from "./title";

/** What the head of a runner's pages shows. */
export const useBar = (id: string) => useQuery({ ...barQuery(id), enabled: !!id });

/**
 * The head of every page of a runner: who it is, the worst thing that stands, the next
 * steps, and the places. A slim one is a single line, for pages that need the room.
 */
export function RunnerHead({
  id,
  here,
  page,
  name,
  slim,
  quiet,
  children,
}: {
  id: string;
  here: Place;
  /** What this page is, where the place alone doesn't say it. */
  page?: ReactNode;
  /** The runner's name, where the page knows it before the head does. */
  name?: string;
  slim?: boolean;
  /** The page itself says what stands. */
  quiet?: boolean;
  children?: ReactNode;
}) {
  const bar = useBar(id);
  const b = bar.data;
  const go = useNavigate();
  const who = b?.name ?? name ?? t`Runner`;
  usePageTitle(typeof page === "string" ? page : undefined, places.find((p) => p.id === here)?.name, who);
  useKeys([
    {
      show: "1 … 8",
      does: places.map((p) => p.name).join(", "),
      on: Object.fromEntries(
        places.map((p, i) => [
          String(i + 1),
          (e: KeyboardEvent) => {
            if (e.target instanceof HTMLElement && e.target.closest("input,[role=slider]")) return false;
            go(placeOf(id, p.id, b));
          },
        ]),
      ),
    },
  ]);
  const facts = b
    ? [
        b.age !== undefined && `${b.age}`,
        b.massKg !== undefined && `${shown("kg", b.massKg, 0)} ${unit("kg")}`,
        b.weeklyKm !== undefined && t`${shown("km", b.weeklyKm, 0)} ${unit("km")} a week`,
        b.goal,
      ].filter(Boolean)
    : [];
  const title = (
    <h1 className={slim ? "text-[22px]" : "text-[28px]"}>
      {here === "now" ? (
        who
      ) : (
        <Link to={`/runners/${id}`} className="hover:underline">
          {who}
        </Link>
      )}
    </h1>
  );
  return (
    <div className={slim ? "mb-3" : "mb-4"}>
      {slim ? (
        <div className="flex flex-wrap items-baseline gap-x-6 border-b-2 border-ink">
          {title}
          <Places id={id} here={here} b={b} />
        </div>
      ) : (
        <>
          <div className="mb-1 flex flex-wrap items-center gap-x-4 gap-y-2">
            {title}
            <p className="mr-auto min-w-0 text-ink-2 [overflow-wrap:anywhere]">{facts.join(" · ")}</p>
            {b && <Steps id={id} b={b} />}
          </div>
          <div className="border-b-2 border-ink">
            <Places id={id} here={here} b={b} />
          </div>
        </>
      )}
      {!quiet && b?.next.loud && (
        <p className="mt-3 border-l-4 border-clay bg-paper px-4 py-2">
          <Link className="hover:underline" to={`/runners/${id}`}>
            <b className="text-clay">
              <span aria-hidden="true">▲ </span>
              {b.next.text}
            </b>
            {b.next.why && <span className="ml-2">{b.next.why}</span>}
          </Link>
        </p>
      )}
      {(page || children) && (
        <div className="mt-3 flex flex-wrap items-center gap-x-4 gap-y-2">
          <p className="mr-auto min-w-0 text-[17px] font-semibold">
            {page && (
              <>
                <Link className="font-normal hover:underline" to={placeOf(id, here, b)}>
                  {places.find((p) => p.id === here)?.name}
                </Link>
                <span aria-hidden="true" className="mx-2 text-ink-2">
                  ›
                </span>
                {page}
              </>
            )}
          </p>
          {children && (
            <div className="flex flex-wrap items-center gap-x-4 gap-y-2 print:hidden">{children}</div>
          )}
        </div>
      )}
    </div>
  );
}

function Places({ id, here, b }: { id: string; here: Place; b?: Bar }) {
  const menu = useRef<HTMLDetailsElement>(null);
  const at = useLocation();
  // biome-ignore lint/correctness/useExhaustiveDependencies: closes when the address changes
  useEffect(() => {
    menu.current?.removeAttribute("open");
  }, [at.pathname]);
  const list = places.map((p) => {
    const state = stateOf(p.id, b);
    const on = p.id === here;
    return (
      <li key={p.id}>
        <Link
          to={placeOf(id, p.id, b)}
          aria-current={on ? "page" : undefined}
          className={`flex min-h-10 items-center gap-1.5 border-b-[3px] pt-[3px] whitespace-nowrap max-sm:border-b max-sm:border-rule max-sm:px-3 ${on ? "border-ink font-semibold" : "border-transparent text-ink-2 hover:text-ink"}`}
        >
          {p.name}
          {state && <span className={on ? "font-normal" : ""}>{state}</span>}
        </Link>
      </li>
    );
  });
  const now = places.find((p) => p.id === here);
  return (
    <nav aria-label={t`Places of this runner`} className="min-w-0 max-sm:w-full print:hidden">
      <ul className="hidden flex-wrap gap-x-5 sm:flex">{list}</ul>
      <details ref={menu} className="sm:hidden">
        <summary className="flex min-h-11 items-center font-semibold">
          {now?.name}
          {stateOf(here, b) && <span className="ml-1.5 font-normal text-ink-2">{stateOf(here, b)}</span>}
          <span aria-hidden="true" className="ml-auto px-2">
            ▾
          </span>
        </summary>
        <ul className="border-t border-rule bg-paper">{list}</ul>
      </details>
    </nav>
  );
}

/** The two next steps of a runner; the obvious one first. */
function Steps({ id, b }: { id: string; b: Bar }) {
  const go = useNavigate();
  const qc = useQueryClient();
  const [key] = useState(freshKey);
  const start = useMutation({
    mutationFn: () =>
      need(
        api.POST("/api/runners/{id}/screenings", {
          body: { footwear: "barefoot" },
          params: { path: { id }, header: { "Idempotency-Key": key } },
        }),
      ),
    onSuccess: (s) => {
      void qc.invalidateQueries({ queryKey: ["screenings", id] });
      void qc.invalidateQueries({ queryKey: ["bench"] });
      go(`/screenings/${s.id}`);
    },
  });
  const first = !b.lastScreening;
  return (
    <div className="flex flex-wrap items-center gap-2 print:hidden">
      {b.blockWeek !== undefined && (
        <Link className={`btn ${b.openScreening ? "" : "btn-main"}`} to={`/runners/${id}/log`}>
          {t`Log a session`}
        </Link>
      )}
      {b.blockWeek === undefined && !first && !b.openScreening && (
        <Link className="btn btn-main" to={`/runners/${id}/plan`}>
          {t`Plan the block`}
        </Link>
      )}
      {b.openScreening ? (
        <Link className="btn btn-main" to={`/screenings/${b.openScreening}`}>
          {t`Go on with the screening`}
        </Link>
      ) : (
        <button
          type="button"
          className={`btn ${first ? "btn-main" : ""}`}
          disabled={start.isPending}
          onClick={() => start.mutate()}
        >
          {first ? t`Start the screening` : t`Screen again`}
        </button>
      )}
      <SaveState error={start.error} saving={start.isPending} />
    </div>
  );
}
