import { plural, t } from "@lingui/core/macro";
import { useMutation, useQuery } from "@tanstack/react-query";
import { api, need } from "../../api/client";
import { moment } from "../../parts/dates";
import { SaveState } from "../../parts/states";
import { useTouch } from "./hooks";

/** What came in lately; each can be taken back as one. */
export function Imports({ id }: { id: string }) {
  const list = useQuery({
    queryKey: ["imports", id],
    queryFn: () => need(api.GET("/api/runners/{id}/run-imports", { params: { path: { id } } })),
  });
  const touch = useTouch(id);
  const back = useMutation({
    mutationFn: (one: string) =>
      need(api.DELETE("/api/runners/{id}/run-imports/{import}", { params: { path: { id, import: one } } })),
    onSuccess: touch,
  });
  const items = list.data?.items ?? [];
  if (items.length === 0) return null;
  return (
    <details className="mt-3 text-[14px]">
      <summary className="cursor-pointer">{t`What came in lately`}</summary>
      <ul>
        {items.map((i) => (
          <li key={i.id} className="flex items-baseline gap-3 border-b border-rule py-1">
            <span className="min-w-0 grow break-words">
              {moment(i.at)}: {i.names.length > 60 ? `${i.names.slice(0, 60)}…` : i.names}, {i.runs}{" "}
              {plural(i.runs, { one: "run", other: "runs" })}
            </span>
            {i.undone ? (
              <span className="text-ink-2">{t`taken back`}</span>
            ) : (
              <button
                type="button"
                className="btn-quiet"
                disabled={back.isPending}
                onClick={() => back.mutate(i.id)}
              >
                {t`Take back`}
              </button>
            )}
          </li>
        ))}
      </ul>
      <SaveState error={back.error} saving={back.isPending} />
    </details>
  );
}
