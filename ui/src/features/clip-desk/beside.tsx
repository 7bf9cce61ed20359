import { t } from "@lingui/core/macro";
import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useParams } from "react-router";
import { api, need, type Schema } from "../../api/client";
import { weekDay } from "../../parts/dates";
import { Select } from "../../parts/field";
import { RunnerHead } from "../../parts/runnerhead";
import { Empty, Failed, Loading } from "../../parts/states";
import { Both } from "./screens";

export type Beside = Schema["Beside"];

/** Two clips or two dates, each locked to the same event, under one set of controls. */
export function BesideView() {
  const { id = "", other } = useParams();
  const go = useNavigate();
  const one = useQuery({
    queryKey: ["clip", id],
    queryFn: () => need(api.GET("/api/clips/{id}", { params: { path: { id } } })),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const runner = one.data?.runnerId ?? "";
  const all = useQuery({
    queryKey: ["runner-clips", runner],
    enabled: !!runner,
    queryFn: () => need(api.GET("/api/runners/{id}/clips", { params: { path: { id: runner } } })),
  });
  const both = useQuery({
    queryKey: ["beside", id, other],
    enabled: !!other,
    queryFn: () =>
      need(api.GET("/api/clips/{id}/beside/{other}", { params: { path: { id, other: other ?? "" } } })),
  });
  if (one.error) return <Failed error={one.error} retry={() => void one.refetch()} />;
  if (all.error) return <Failed error={all.error} retry={() => void all.refetch()} />;
  if (!one.data || !all.data) return <Loading what={t`the clips`} />;
  const others = all.data.items.filter((c) => c.id !== id);
  return (
    <>
      <RunnerHead
        id={one.data.runnerId}
        name={one.data.runnerName}
        here="clips"
        page={t`Two clips side by side`}
        slim
        quiet
      >
        <Link className="btn-quiet" to={`/clips/${id}`}>
          {t`${one.data.name} on the desk`}
        </Link>
      </RunnerHead>
      <div className="mb-4 max-w-md">
        <Select
          label={t`Beside ${one.data.name}, ${weekDay(one.data.on)}`}
          all={others.length > 0 ? t`choose a clip` : t`there is no other clip of this runner`}
          options={others.map((c): [string, string] => [c.id, `${c.name}, ${weekDay(c.on)}`])}
          value={other ?? ""}
          onChange={(v) => void go(v ? `/clips/${id}/beside/${v}` : `/clips/${id}/beside`)}
        />
      </div>
      {both.error ? (
        <Failed error={both.error} retry={() => void both.refetch()} />
      ) : both.data ? (
        <Both key={`${id}${other}`} b={both.data} />
      ) : other ? (
        <Loading what={t`both clips`} />
      ) : (
        <Empty title={t`Choose the second clip`}>
          {t`Any clip, photo or marker file of this runner, from this screening or an earlier one.`}
        </Empty>
      )}
    </>
  );
}
