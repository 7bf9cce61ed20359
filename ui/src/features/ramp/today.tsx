import { t } from "@lingui/core/macro";
import { api, need } from "../../api/client";
import { plusDays } from "../../parts/dates";
import { Title } from "../../parts/marks";
import { SaveState } from "../../parts/states";
import { useRampChange, type View } from "./hooks";

/** What stands today and yesterday; one tap says it was done. */
export function Today({ id, v }: { id: string; v: View }) {
  const put = useRampChange(
    id,
    (body: { on: string; stage?: View["days"][number]["stage"]; done: boolean }) =>
      need(
        api.PUT("/api/runners/{id}/ramp-days", {
          params: { path: { id } },
          body: { ...body, stage: body.stage === "cadence" || body.stage === "cue" ? undefined : body.stage },
        }),
      ),
  );
  const yesterday = plusDays(v.today, -1);
  const open = v.yesterday.some((d) => !d.done);
  return (
    <section aria-label={t`Today on the ramp`} className="mb-6 print:hidden">
      <Title aside={t`one tap says it was done`}>{t`Today`}</Title>
      <Items on={v.today} list={v.days} put={put.mutate} />
      {open && (
        <>
          <h3 className="mt-3 mb-1">{t`Yesterday: not logged yet`}</h3>
          <Items on={yesterday} list={v.yesterday} put={put.mutate} />
        </>
      )}
      <SaveState error={put.error} saving={false} />
    </section>
  );
}

function Items({
  on,
  list,
  put,
}: {
  on: string;
  list: View["days"];
  put: (b: { on: string; stage?: View["days"][number]["stage"]; done: boolean }) => void;
}) {
  if (list.length === 0) return <p className="text-ink-2">{t`Nothing of the ramp on this day.`}</p>;
  const all = list.every((d) => d.done);
  return (
    <div className="flex flex-wrap items-start gap-3">
      {list.map((d) => (
        <button
          key={d.stage}
          type="button"
          aria-pressed={d.done}
          className={`min-h-12 max-w-96 rounded-[3px] border-[1.5px] px-4 py-2 text-left ${d.done ? "border-pine bg-pine-wash" : "border-ink bg-paper"}`}
          onClick={() => put({ on, stage: d.stage, done: !d.done })}
        >
          <b>{d.done ? t`✓ done` : t`Done`}</b>: {d.words}
        </button>
      ))}
      {list.length > 1 && (
        <button
          type="button"
          className="btn min-h-12"
          aria-pressed={all}
          onClick={() => put({ on, done: !all })}
        >
          {all ? t`Undo all` : t`All done`}
        </button>
      )}
    </div>
  );
}
