import { t } from "@lingui/core/macro";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, need } from "../../api/client";
import { Drawing } from "../../parts/picture";
import { Empty, Failed, Loading } from "../../parts/states";
import { Head, ShelfTabs } from "./head";

/** Every drawing beside the text it belongs to, to look through once. */
export function FiguresView() {
  const [search, setSearch] = useState("");
  const list = useQuery({
    queryKey: ["figures"],
    queryFn: () => need(api.GET("/api/shelf/figures")),
    staleTime: 60_000,
    retry: false,
  });
  if (list.isPending) return <Loading what={t`the drawings`} />;
  if (list.error) return <Failed error={list.error} retry={() => void list.refetch()} />;
  const q = search.trim().toLowerCase();
  const shown = list.data.items.filter(
    (f) => !q || `${f.name} ${f.text} ${f.poses.join(" ")}`.toLowerCase().includes(q),
  );
  return (
    <>
      <Head
        title={t`Drawings`}
        page={t`Drawings`}
        line={t`Start and end of every exercise, and every test, beside the text. Where one is wrong, change the exercise: take its poses over and turn the angles.`}
        to="/shelf/exercises/new"
        button={t`Own exercise`}
      />
      <ShelfTabs />
      <label className="mb-3 block max-w-sm">
        <span className="mb-1 block font-semibold">{t`Find a drawing`}</span>
        <input
          className="field"
          type="search"
          value={search}
          onChange={(e) => setSearch(e.target.value)}
          placeholder={t`name, text, pose or thing`}
        />
      </label>
      <p className="mb-3 text-ink-2" role="status">
        {t`${shown.length} of ${list.data.items.length} drawings`}
      </p>
      {shown.length === 0 && (
        <Empty title={t`No drawing is called that`}>
          <p>{t`Search for a word of the text, or for a thing like “wall”.`}</p>
        </Empty>
      )}
      <ul className="grid gap-x-8 lg:grid-cols-2">
        {shown.map((f) => (
          <li
            key={`${f.kind}/${f.id}`}
            className="flex flex-wrap gap-4 border-t border-rule py-3 sm:flex-nowrap"
          >
            <span className="flex shrink-0 gap-1">
              <Drawing parts={f.start} size={104} />
              {f.end.length > 0 && <Drawing parts={f.end} size={104} />}
            </span>
            <div className="min-w-0 text-[14px] [overflow-wrap:anywhere]">
              <h2 className="text-[17px]">{f.kind === "test" ? t`Test: ${f.name}` : f.name}</h2>
              <p>{f.text}</p>
              <p className="text-ink-2">{f.cues.join(" · ")}</p>
              <details className="mt-1">
                <summary className="btn-quiet">{t`The pose`}</summary>
                {f.poses.map((p) => (
                  <p key={p} className="tnum">
                    {p}
                  </p>
                ))}
              </details>
              {f.kind === "exercise" && (
                <Link className="btn-quiet" to={`/shelf/exercises/${f.id}`} aria-label={t`change: ${f.name}`}>
                  {t`Change`}
                </Link>
              )}
            </div>
          </li>
        ))}
      </ul>
    </>
  );
}
