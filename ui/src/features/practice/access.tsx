import { t } from "@lingui/core/macro";
import { useInfiniteQuery } from "@tanstack/react-query";
import { Link, useSearchParams } from "react-router";
import { api, need } from "../../api/client";
import { moment } from "../../parts/dates";
import { Select } from "../../parts/field";
import { Empty, Failed, Loading } from "../../parts/states";
import { Tick } from "../../parts/tick";
import { usePageTitle } from "../../parts/title";
import { PracticeHead } from "./head";
import { useStaff } from "./people";

/** How many lines come at once. */
const page = 200;

/** Who was let in to what, and who was not: for the owner, newest first. */
export function AccessLog() {
  usePageTitle(t`Who looked`, t`Practice`);
  const [search, setSearch] = useSearchParams();
  const runner = search.get("runner") ?? undefined;
  const user = search.get("user") ?? undefined;
  const refused = search.get("refused") === "true" || undefined;
  const staff = useStaff();
  const choose = (key: string, to: string) =>
    setSearch((was) => {
      if (to) was.set(key, to);
      else was.delete(key);
      return was;
    });
  const log = useInfiniteQuery({
    queryKey: ["access", runner, user, refused],
    initialPageParam: 0,
    queryFn: ({ pageParam }) =>
      need(api.GET("/api/access-log", { params: { query: { runner, user, refused, below: pageParam } } })),
    getNextPageParam: (last) => (last.items.length >= page ? last.items.at(-1)?.id : undefined),
  });
  if (log.isPending) return <Loading what={t`the access log`} />;
  if (log.error) return <Failed error={log.error} retry={() => void log.refetch()} />;
  const lines = log.data.pages.flatMap((p) => p.items);
  const name = runner && lines.find((l) => l.runner)?.runner;
  return (
    <>
      <PracticeHead />
      <h1>{t`Who looked`}</h1>
      <p className="mt-1 mb-4 text-ink-2">
        {t`Everything that was shown or changed${name ? t` of ${name}` : ""}, by whom and when, newest first. Only owners see this.`}
        {runner && (
          <>
            {" "}
            <Link to="/practice/access">{t`Show everybody`}</Link>
          </>
        )}
      </p>
      <div className="mb-4 flex flex-wrap items-end gap-4">
        <Select
          quiet
          label={t`by`}
          value={user ?? ""}
          onChange={(v) => choose("user", v)}
          all={t`anybody`}
          options={(staff.data?.people ?? []).map((p) => [p.id, p.name])}
        />
        <Tick
          label={t`only what was refused`}
          on={!!refused}
          onChange={(on) => choose("refused", on ? "true" : "")}
        />
        <a className="btn ml-auto" href={`/api/access-log/csv?${search}`} download>
          {t`As a table`}
        </a>
      </div>
      {lines.length === 0 ? (
        <Empty title={t`Nothing here`}>
          <p>{t`No look at a record fits what is chosen above.`}</p>
        </Empty>
      ) : (
        <table className="w-full text-[14px]">
          <thead>
            <tr className="border-b-2 border-ink text-left">
              <th scope="col" className="py-1.5 pr-4">
                {t`When`}
              </th>
              <th scope="col" className="py-1.5 pr-4">
                {t`Who`}
              </th>
              <th scope="col" className="py-1.5 pr-4">
                {t`Runner`}
              </th>
              <th scope="col" className="py-1.5">
                {t`What`}
              </th>
            </tr>
          </thead>
          <tbody>
            {lines.map((l) => (
              <tr key={l.id} className="border-b border-rule align-top">
                <td className="py-1.5 pr-4 whitespace-nowrap">{moment(l.at)}</td>
                <td className="py-1.5 pr-4">
                  {l.key
                    ? t`a program of ${l.by}: ${l.key}`
                    : l.by || (/pocket/i.test(l.did) ? t`the runner’s phone` : t`a calendar program`)}
                </td>
                <td className="py-1.5 pr-4">
                  {l.runnerId && <Link to={`/practice/access?runner=${l.runnerId}`}>{l.runner}</Link>}
                </td>
                <td className="py-1.5">
                  {l.what}
                  {l.refused && <b className="text-clay">{t` ▲ refused`}</b>}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {log.hasNextPage && (
        <button
          type="button"
          className="btn mt-4"
          disabled={log.isFetchingNextPage}
          onClick={() => void log.fetchNextPage()}
        >
          {t`Show older lines`}
        </button>
      )}
    </>
  );
}
