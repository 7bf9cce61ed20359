import { t } from "@lingui/core/macro";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, need, type Schema } from "../api/client";

/** Files that stand in for a camera or a watch, where the practice offers them. */
export function StandIns({
  kind,
  busy,
  take,
}: {
  kind: Schema["StandIn"]["kind"];
  busy?: boolean;
  take: (files: File[]) => Promise<void>;
}) {
  const list = useQuery({ queryKey: ["stand-ins"], queryFn: () => need(api.GET("/api/stand-ins")) });
  const [failed, setFailed] = useState(false);
  const items = (list.data?.items ?? []).filter((x) => x.kind === kind);
  if (items.length === 0) return null;
  const bring = async (x: Schema["StandIn"]) => {
    setFailed(false);
    const res = await fetch(`/api/stand-ins/${x.id}`).catch(() => undefined);
    if (!res?.ok) return setFailed(true);
    await take([new File([await res.blob()], x.file, { type: res.headers.get("Content-Type") ?? "" })]);
  };
  return (
    <details className={`mt-3 text-[14px] ${kind === "clip" ? "" : "text-center"}`}>
      <summary className="btn-quiet inline-block cursor-pointer">
        {kind === "clip" ? t`No camera at hand?` : t`No watch at hand?`}
      </summary>
      <p className="my-2 text-ink-2">
        {kind === "clip"
          ? t`Rendered runners, no persons: to try the desk on somebody made up.`
          : t`Runs that nobody ran: to try it on somebody made up.`}
      </p>
      <div className={`flex flex-wrap gap-2 ${kind === "clip" ? "" : "justify-center"}`}>
        {items.map((x) => (
          <button key={x.id} type="button" className="btn" disabled={busy} onClick={() => void bring(x)}>
            {x.name}
          </button>
        ))}
      </div>
      {failed && <p role="alert" className="mt-2 text-clay">{t`That did not load; try again.`}</p>}
    </details>
  );
}
