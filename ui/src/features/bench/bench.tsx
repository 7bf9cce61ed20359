import { t } from "@lingui/core/macro";
import { useWindowVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";
import { Link, useLocation, useNavigate } from "react-router";
import { useBench } from "../../api/hooks";
import { dayMonth, longDay } from "../../parts/dates";
import { useKeys } from "../../parts/keys";
import { SmallPair } from "../../parts/limbs";
import { Empty, Failed, Loading } from "../../parts/states";
import { usePageTitle } from "../../parts/title";
import { useStaff } from "../practice/people";
import { Bring } from "./bring";
import { type Filter, filters, groups, Shown } from "./shown";
import { Spark } from "./spark";
import { action, type Item, target } from "./target";

type Line = { head: (typeof groups)[number]; n: number } | { item: Item; at: number };

/** Everybody, grouped by what there is to do; long lists are drawn as far as they are seen. */
export function Bench() {
  const [search, setSearch] = useState("");
  const [filter, setFilter] = useState<Filter>("all");
  const [byName, setByName] = useState(false);
  const [whose, setWhose] = useState(() => localStorage.getItem("bench-whose") ?? "");
  const coaches = useStaff().data?.people.filter((p) => p.role !== "viewer") ?? [];
  const list = useBench(search);
  const go = useNavigate();
  usePageTitle(t`Bench`);
  const next = () => setFilter((f) => filters[(filters.indexOf(f) + 1) % filters.length] ?? "all");
  useKeys([
    { show: "↓ ↑", does: t`move through the runners` },
    { show: "Enter", does: t`open the runner's next step` },
    { show: "n", does: t`add a runner`, on: { n: () => go("/runners/new") } },
    { show: "f", does: t`show another group only`, on: { f: next } },
    { show: "s", does: t`sort by what to do, or by name`, on: { s: () => setByName((x) => !x) } },
  ]);
  const find = useRef<HTMLInputElement>(null);
  const at = useLocation();
  useEffect(() => {
    if (at.search === "?find" && at.key) find.current?.focus();
  }, [at.search, at.key]);
  // The pages of a long bench come one after the other by themselves.
  useEffect(() => {
    if (list.hasNextPage && !list.isFetchingNextPage) void list.fetchNextPage();
  }, [list.hasNextPage, list.isFetchingNextPage, list.fetchNextPage]);
  const everybody = useMemo(() => list.data?.pages.flatMap((p) => p.items) ?? [], [list.data]);
  // Only who is here can be chosen; what is chosen stays on this device.
  const by = coaches.some((c) => c.id === whose) ? whose : "";
  const all = useMemo(() => (by ? everybody.filter((i) => i.coach === by) : everybody), [everybody, by]);
  const { lines, items } = useMemo(() => sorted(all, filter, byName), [all, filter, byName]);
  const box = useRef<HTMLUListElement>(null);
  const [top, setTop] = useState(0);
  // biome-ignore lint/correctness/useExhaustiveDependencies: where the list begins moves with what is above it
  useLayoutEffect(() => setTop(box.current?.offsetTop ?? 0), [lines.length]);
  const rows = useWindowVirtualizer({
    count: lines.length,
    estimateSize: (i) => (lines[i] && "head" in lines[i] ? 44 : 72),
    overscan: 12,
    scrollMargin: top,
    getItemKey: (i) => {
      const l = lines[i];
      return l ? ("head" in l ? l.head.id : l.item.id) : i;
    },
  });
  const focusRow = (n: number) => {
    const to = Math.min(items.length - 1, Math.max(0, n));
    const line = lines.findIndex((l) => "item" in l && l.at === to);
    if (line < 0) return;
    const take = () => document.querySelector<HTMLElement>(`[data-row="${to}"]`);
    if (take()) return take()?.focus();
    rows.scrollToIndex(line, { align: "center" });
    requestAnimationFrame(() => requestAnimationFrame(() => take()?.focus()));
  };
  const today = all[0]?.days.at(-1)?.on;
  const counts = groups.flatMap((g) => {
    const n = all.filter((i) => i.group === g.id).length;
    return n > 0 ? [g.many(n)] : [];
  });
  return (
    <>
      <div className="mb-4 flex flex-wrap items-end gap-x-4 gap-y-3">
        <div className="mr-auto">
          <h1>{today ? longDay(today) : t`Bench`}</h1>
          <p className="mt-1 text-ink-2">
            {counts.length > 0 ? `${counts.join(", ")}.` : t`Who needs you today, first things first.`}
          </p>
        </div>
        <label className="w-full max-w-60">
          <span className="sr-only">{t`Find a runner`}</span>
          <input
            id="find"
            ref={find}
            type="search"
            className="field"
            placeholder={t`Find a runner`}
            value={search}
            onChange={(e) => setSearch(e.target.value)}
            onKeyDown={(e) => {
              if (e.key === "ArrowDown") {
                e.preventDefault();
                focusRow(0);
              }
              if (e.key === "Enter" && items[0]) go(target(items[0]));
            }}
          />
        </label>
        <Bring />
        <Link className="btn btn-main" to="/runners/new">
          {t`Add a runner`}
        </Link>
      </div>
      {everybody.length > 3 && (
        <Shown
          filter={filter}
          show={setFilter}
          coaches={coaches}
          by={by}
          choose={setWhose}
          byName={byName}
          sort={setByName}
        />
      )}
      {list.isPending && <Loading what={t`the runners`} />}
      {list.error && <Failed error={list.error} retry={() => void list.refetch()} />}
      {list.data && everybody.length === 0 && search && (
        <Empty title={t`No runner called “${search}”`}>
          <button type="button" className="btn-quiet" onClick={() => setSearch("")}>
            {t`Show everybody`}
          </button>
        </Empty>
      )}
      {list.data && all.length === 0 && everybody.length > 0 && (
        <Empty title={t`No runner is looked after by this coach`}>
          <button type="button" className="btn-quiet" onClick={() => setWhose("")}>
            {t`Show everybody`}
          </button>
        </Empty>
      )}
      {list.data && everybody.length === 0 && !search && (
        <Empty title={t`No runners yet`}>
          <p>{t`Add the first one; a screening of 8 minutes is enough for a first plan.`}</p>
          <Link className="btn mt-3" to="/runners/new">
            {t`Add a runner`}
          </Link>
        </Empty>
      )}
      {all.length > 0 && items.length === 0 && (
        <Empty title={t`Nobody in this group`}>
          <button type="button" className="btn-quiet" onClick={() => setFilter("all")}>
            {t`Show everybody`}
          </button>
        </Empty>
      )}
      {items.length > 0 && (
        <ul ref={box} className="relative border-t border-rule" style={{ height: rows.getTotalSize() }}>
          {rows.getVirtualItems().map((v) => {
            const l = lines[v.index];
            if (!l) return null;
            return (
              <li
                key={v.key}
                data-index={v.index}
                ref={rows.measureElement}
                className="absolute inset-x-0 border-b border-rule"
                style={{ top: v.start - top }}
              >
                {"head" in l ? (
                  <h2 className="flex items-baseline justify-between pt-3 pb-1 text-[17px]">
                    {l.head.name} <span className="font-sans text-[14px] font-normal text-ink-2">{l.n}</span>
                  </h2>
                ) : (
                  <Row i={l.item} at={l.at} move={focusRow} />
                )}
              </li>
            );
          })}
        </ul>
      )}
    </>
  );
}

function sorted(all: Item[], filter: Filter, byName: boolean): { lines: Line[]; items: Item[] } {
  const shown = all.filter((i) => filter === "all" || i.group === filter);
  if (byName) {
    const items = shown.toSorted((a, b) => a.name.localeCompare(b.name));
    return { items, lines: items.map((item, at) => ({ item, at })) };
  }
  const lines: Line[] = [];
  const items: Item[] = [];
  for (const g of groups) {
    const own = shown.filter((i) => i.group === g.id);
    if (own.length === 0) continue;
    lines.push({ head: g, n: own.length });
    for (const item of own) {
      lines.push({ item, at: items.length });
      items.push(item);
    }
  }
  return { lines, items };
}

const moreShown = 1;

function Row({ i, at, move }: { i: Item; at: number; move: (n: number) => void }) {
  const rest = i.more.slice(0, moreShown).map((m) => m.text);
  const over = i.more.length - rest.length;
  const hue = i.next.loud
    ? "font-semibold text-clay"
    : i.group === "well"
      ? "text-ink-2"
      : i.next.kind === "decide" || i.next.kind === "gate" || i.next.kind === "change"
        ? "font-semibold text-pine"
        : "font-semibold";
  return (
    <Link
      data-row={at}
      to={target(i)}
      className="grid grid-cols-[minmax(0,1fr)_auto] items-center gap-x-5 gap-y-1 px-1 py-2.5 hover:bg-paper focus-visible:-outline-offset-2 md:grid-cols-[minmax(0,11.5rem)_3.6rem_minmax(0,15rem)_minmax(0,1fr)_auto]"
      onKeyDown={(e) => {
        if (e.key === "ArrowDown" || e.key === "ArrowUp") {
          e.preventDefault();
          move(at + (e.key === "ArrowDown" ? 1 : -1));
        }
      }}
    >
      <span className="min-w-0">
        <span className="display block text-[17px] leading-tight font-semibold [overflow-wrap:anywhere]">
          {i.name}
          {i.age !== undefined && (
            <span className="ml-1.5 font-sans text-[14px] font-normal text-ink-2">{i.age}</span>
          )}
        </span>
        <span className="text-[13px] text-ink-2">
          {i.blockWeek && i.blockWeeks
            ? i.blockWeek > i.blockWeeks
              ? t`block over`
              : t`week ${i.blockWeek} of ${i.blockWeeks}`
            : t`no block`}
        </span>
        {i.heard > 0 && (
          <b className="ml-2 rounded-[3px] bg-ink px-1.5 text-[13px] text-chalk">{t`${i.heard} new`}</b>
        )}
      </span>
      <SmallPair hurts={i.hurts} />
      <span className="order-4 col-span-2 md:order-none md:col-span-1">
        <Spark days={i.days} />
      </span>
      <span className="order-3 col-span-2 min-w-0 [overflow-wrap:anywhere] md:order-none md:col-span-1">
        <span className={hue}>
          {i.next.loud && <span aria-hidden="true">▲ </span>}
          {i.next.text}
        </span>
        {i.next.why && <span className="text-[14px] text-ink-2"> {i.next.why}</span>}
        {rest.length > 0 ? (
          <span className="block text-[14px] text-ink-2">
            {rest.join(" · ")}
            {over > 0 && t` · ${over} more`}
          </span>
        ) : (
          i.lastLog && (
            <span className="block text-[14px] text-ink-2">{t`last session ${dayMonth(i.lastLog)}`}</span>
          )
        )}
      </span>
      <span
        className={`btn order-5 col-span-2 md:order-none md:col-span-1 ${i.next.loud ? "btn-main" : ""} ${i.group === "well" ? "border-rule font-normal" : ""}`}
      >
        {action(i)}
      </span>
    </Link>
  );
}
