import { t } from "@lingui/core/macro";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "react-router";
import { api, need } from "../../api/client";
import { useMe } from "../../api/hooks";
import { Title } from "../../parts/marks";
import { Failed, Loading, SaveState } from "../../parts/states";
import { usePageTitle } from "../../parts/title";

/** What this edition of the engine decides differently from the one before. */
export function EngineView() {
  usePageTitle(t`The engine`);
  const me = useMe();
  const qc = useQueryClient();
  const state = useQuery({ queryKey: ["engine"], queryFn: () => need(api.GET("/api/engine")) });
  const accept = useMutation({
    mutationFn: () => need(api.POST("/api/engine")),
    onSuccess: (s) => qc.setQueryData(["engine"], s),
  });
  if (state.isPending) return <Loading what={t`the engine`} />;
  if (state.error) return <Failed error={state.error} retry={() => void state.refetch()} />;
  const s = state.data;
  const waits = s.accepted !== s.version;
  return (
    <>
      <h1>{t`The engine`}</h1>
      <p className="mt-1 mb-5 max-w-3xl text-ink-2">
        {t`Edition ${s.version}. ${s.looked} standing decisions were made again from the readings they were made from. ${
          waits
            ? t`The practice works with edition ${s.accepted}; until the owner has looked, every step up waits for a coach. Caution applies at once.`
            : t`It is the edition this practice works with.`
        }`}
      </p>
      {waits && (
        <p className="mb-5 flex items-center gap-4">
          <button
            type="button"
            className="btn btn-main"
            disabled={accept.isPending || me.data?.role !== "owner"}
            onClick={() => accept.mutate()}
          >
            {t`Work with edition ${s.version}`}
          </button>
          {me.data?.role !== "owner" && <span className="text-ink-2">{t`The owner does this.`}</span>}
        </p>
      )}
      <SaveState error={accept.error} saving={accept.isPending} />
      <section aria-label={t`Differences`}>
        <Title aside={`${s.differences.length}`}>{t`What comes out differently`}</Title>
        {s.differences.length === 0 ? (
          <p className="text-ink-2">{t`Nothing: every decision comes out the same.`}</p>
        ) : (
          <ul>
            {s.differences.map((d) => (
              <li
                key={`${d.runnerId}${d.ladder}${d.side}`}
                className="grid gap-x-6 border-b border-rule py-2 md:grid-cols-[12rem_1fr_1fr]"
              >
                <b>
                  <Link className="hover:underline" to={`/review/${d.runnerId}`}>
                    {d.runnerName}
                  </Link>
                  , {d.ladder}
                </b>
                <span>
                  <span className="text-ink-2">{t`was `}</span>
                  {d.was}
                </span>
                <span>
                  <span className="text-ink-2">{t`now `}</span>
                  {d.now}
                </span>
              </li>
            ))}
          </ul>
        )}
      </section>
    </>
  );
}
