import { useEffect, useRef, useState } from "react";
import { Link, useLocation, useNavigate } from "react-router";
import { useBench } from "../../api/hooks";
import { dayMonth } from "../../parts/dates";
import { useKeys } from "../../parts/keys";
import { Empty, Failed, Loading } from "../../parts/states";
import { Bring } from "./bring";
import { target } from "./target";

export function Bench() {
  const [search, setSearch] = useState("");
  const list = useBench(search);
  const go = useNavigate();
  useKeys([
    { show: "↓ ↑", does: "move through the runners" },
    { show: "Enter", does: "open the runner's next step" },
    { show: "n", does: "add a runner", on: { n: () => go("/runners/new") } },
  ]);
  const find = useRef<HTMLInputElement>(null);
  const at = useLocation();
  useEffect(() => {
    if (at.search === "?find" && at.key) find.current?.focus();
  }, [at.search, at.key]);
  const items = list.data?.pages.flatMap((p) => p.items) ?? [];
  const focusRow = (i: number) =>
    document.querySelectorAll<HTMLElement>("[data-row]")[Math.min(items.length - 1, Math.max(0, i))]?.focus();
  return (
    <>
      <div className="mb-5 flex flex-wrap items-end gap-x-6 gap-y-3">
        <div className="mr-auto">
          <h1>Bench</h1>
          <p className="mt-1 text-ink-2">Who needs you today, first things first.</p>
        </div>
        <label className="w-full max-w-64">
          <span className="sr-only">Find a runner</span>
          <input
            id="find"
            ref={find}
            type="search"
            className="field"
            placeholder="Find a runner"
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
          Add a runner
        </Link>
      </div>
      {list.isPending && <Loading what="the runners" />}
      {list.error && <Failed error={list.error} retry={() => void list.refetch()} />}
      {list.data && items.length === 0 && search && (
        <Empty title={`No runner called “${search}”`}>
          <button type="button" className="btn-quiet" onClick={() => setSearch("")}>
            Show everybody
          </button>
        </Empty>
      )}
      {list.data && items.length === 0 && !search && (
        <Empty title="No runners yet">
          <p>Add the first one, then screen: knee to wall, big toe, single-leg raise.</p>
          <Link className="btn mt-3" to="/runners/new">
            Add a runner
          </Link>
        </Empty>
      )}
      {items.length > 0 && (
        <ul className="border-t-2 border-ink">
          {items.map((i, n) => (
            <li key={i.id} className="border-b border-rule">
              <Link
                data-row
                to={target(i)}
                className="grid grid-cols-[1fr_auto] items-center gap-x-6 gap-y-0.5 px-2 py-2.5 hover:bg-paper focus-visible:-outline-offset-2 md:grid-cols-[minmax(0,17rem)_minmax(0,1fr)_8.5rem_8.5rem]"
                onKeyDown={(e) => {
                  if (e.key === "ArrowDown" || e.key === "ArrowUp") {
                    e.preventDefault();
                    focusRow(n + (e.key === "ArrowDown" ? 1 : -1));
                  }
                }}
              >
                <span className="display truncate text-[17px] font-semibold">
                  {i.name}
                  {i.age !== undefined && (
                    <span className="ml-2 font-sans text-[14px] font-normal text-ink-2">{i.age}</span>
                  )}
                </span>
                <span className="order-3 col-span-2 md:order-none md:col-span-1">
                  <span
                    className={
                      i.next.loud
                        ? "font-semibold text-clay"
                        : i.next.kind === "none"
                          ? "text-ink-2"
                          : "font-semibold"
                    }
                  >
                    {i.next.loud && <span aria-hidden="true">▲ </span>}
                    {i.next.text}
                  </span>
                  {i.next.why && <span className="text-[14px] text-ink-2"> ({i.next.why})</span>}
                  {i.more.length > 0 && (
                    <span className="block text-[14px]">{i.more.map((m) => m.text).join(" · ")}</span>
                  )}
                  {i.heard > 0 && (
                    <span className="block text-[14px] font-semibold">{i.heard} new from the phone</span>
                  )}
                  {i.phases.length > 0 && (
                    <span className="block text-[13px] text-ink-2">{i.phases.join(" · ")}</span>
                  )}
                  {i.goal && <span className="block truncate text-[14px] text-ink-2">{i.goal}</span>}
                </span>
                <span className="text-[14px] whitespace-nowrap text-ink-2">
                  {i.blockWeek ? `week ${i.blockWeek} of ${i.blockWeeks}` : "no block"}
                </span>
                <span className="hidden text-[14px] text-ink-2 md:block">
                  {i.lastLog
                    ? `logged ${dayMonth(i.lastLog)}`
                    : i.lastScreening
                      ? `screened ${dayMonth(i.lastScreening)}`
                      : ""}
                </span>
              </Link>
            </li>
          ))}
        </ul>
      )}
      {list.hasNextPage && (
        <p className="mt-4 flex flex-wrap items-center gap-3">
          <button
            type="button"
            className="btn"
            disabled={list.isFetchingNextPage}
            onClick={() => void list.fetchNextPage()}
          >
            Show more runners
          </button>
          <span className="text-ink-2">
            {items.length} of {list.data?.pages.at(-1)?.total} shown
          </span>
        </p>
      )}
    </>
  );
}
