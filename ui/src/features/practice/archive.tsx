import { t } from "@lingui/core/macro";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "react-router";
import { api, need } from "../../api/client";
import { useMe } from "../../api/hooks";
import { longDay, weekDay } from "../../parts/dates";
import { Empty, Failed, Loading, SaveState } from "../../parts/states";
import { usePageTitle } from "../../parts/title";
import { PracticeHead } from "./head";

const archiveKey = ["archive"];

/** Runners off the bench, and whose records go soon. */
export function ArchiveView() {
  usePageTitle(t`Off the bench`, t`Practice`);
  const me = useMe();
  const qc = useQueryClient();
  const list = useQuery({ queryKey: archiveKey, queryFn: () => need(api.GET("/api/archive")) });
  const back = useMutation({
    mutationFn: (id: string) =>
      need(api.PUT("/api/runners/{id}/archive", { params: { path: { id } }, body: { away: false } })),
    onSuccess: () => {
      void qc.invalidateQueries({ queryKey: archiveKey });
      void qc.invalidateQueries({ queryKey: ["bench"] });
    },
  });
  const keep = useMutation({
    mutationFn: (id: string) => need(api.POST("/api/runners/{id}/keep", { params: { path: { id } } })),
    onSuccess: (l) => qc.setQueryData(archiveKey, l),
  });
  if (list.isPending) return <Loading what={t`the runners off the bench`} />;
  if (list.error) return <Failed error={list.error} retry={() => void list.refetch()} />;
  const items = list.data.items;
  const may = me.data?.role !== "viewer";
  return (
    <>
      <PracticeHead />
      <h1>{t`Off the bench`}</h1>
      <p className="mt-1 mb-4 text-ink-2">
        {t`Who is not coached now. Their records are kept as they were, without phone, calendar and nightly review.`}
      </p>
      {items.length === 0 ? (
        <Empty
          title={t`Nobody`}
        >{t`A runner is taken off the bench on the runner's own page, under Profile.`}</Empty>
      ) : (
        <ul className="max-w-4xl">
          {items.map((r) => (
            <li key={r.id} className="flex flex-wrap items-center gap-x-4 gap-y-2 border-b border-rule py-3">
              <span className="mr-auto">
                <Link className="font-semibold hover:underline" to={`/runners/${r.id}`}>
                  {r.name}
                </Link>
                <span className="block text-[14px] text-ink-2">
                  {t`since ${weekDay(r.since)}`}
                  {r.goes && !r.soon && t`, records kept until ${longDay(r.goes)}`}
                </span>
                {r.soon && r.goes && (
                  <b className="text-[14px] text-clay">
                    <span aria-hidden="true">▲ </span>
                    {t`All records are deleted on ${longDay(r.goes)}.`}
                  </b>
                )}
              </span>
              {may && r.soon && (
                <button type="button" className="btn" onClick={() => keep.mutate(r.id)}>
                  {t`Keep another year`}
                </button>
              )}
              {may && (
                <button
                  type="button"
                  className="btn-quiet"
                  aria-label={t`Put ${r.name} back on the bench`}
                  onClick={() => back.mutate(r.id)}
                >
                  {t`Back on the bench`}
                </button>
              )}
            </li>
          ))}
        </ul>
      )}
      <SaveState error={back.error ?? keep.error} saving={false} />
    </>
  );
}
