import { t } from "@lingui/core/macro";
import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "react-router";
import { api, need } from "../../api/client";
import { useScreening } from "../../api/hooks";
import { weekDay } from "../../parts/dates";
import { Title } from "../../parts/marks";
import { RunnerHead } from "../../parts/runnerhead";
import { Empty, Failed, Loading } from "../../parts/states";
import { Bring } from "./bring";
import { Row } from "./row";

export const useClips = (screening: string) =>
  useQuery({
    queryKey: ["clips", screening],
    queryFn: () => need(api.GET("/api/screenings/{id}/clips", { params: { path: { id: screening } } })),
    refetchInterval: (q) => (q.state.data?.items.some((c) => c.turning && !c.turning.error) ? 500 : false),
  });

/** Clips and photos of a screening: bring some in, open one on the desk. */
export function ClipsView() {
  const { id = "" } = useParams();
  const s = useScreening(id);
  const list = useClips(id);
  if (s.isPending || list.isPending) return <Loading what={t`the clips`} />;
  if (s.error) return <Failed error={s.error} retry={() => void s.refetch()} />;
  if (list.error) return <Failed error={list.error} retry={() => void list.refetch()} />;
  return (
    <>
      <RunnerHead
        id={s.data.runnerId}
        name={s.data.runnerName}
        here="clips"
        page={t`Clips of the screening, ${weekDay(s.data.on)}`}
        slim
        quiet
      >
        <Link className="btn-quiet" to={`/screenings/${id}`}>
          {t`The screening`}
        </Link>
      </RunnerHead>
      <Bring screening={id} />
      {list.data.items.length === 0 ? (
        <Empty title={t`No clip yet`}>
          {t`Film square-on, at hip height, from 4 m or more; six steps or more, as many frames a second as the camera has. A photo does for ankle and big toe.`}
        </Empty>
      ) : (
        <section aria-label={t`Clips`} className="mt-6">
          <Title>{t`Clips and photos`}</Title>
          <ul>
            {list.data.items.map((c) => (
              <Row key={c.id} c={c} />
            ))}
          </ul>
        </section>
      )}
    </>
  );
}
