import { t } from "@lingui/core/macro";
import { useState } from "react";
import { Link } from "react-router";
import type { Schema } from "../../api/client";
import { useJournal } from "../../api/hooks";
import { moment, weekDay } from "../../parts/dates";
import { SideName, Title } from "../../parts/marks";
import { show } from "../../parts/numbers";

export function Screenings({
  list,
  tests,
  id,
}: {
  list: Schema["Screening"][];
  tests: Schema["ScreeningTest"][];
  id: string;
}) {
  return (
    <section aria-label={t`Screenings`}>
      <Title
        aside={
          list.length > 1 && (
            <Link className="btn-quiet" to={`/runners/${id}/compare`}>
              {t`Side by side`}
            </Link>
          )
        }
      >
        {t`Screenings`}
      </Title>
      <table className="w-full border-collapse text-[14px]">
        <thead>
          <tr className="border-b border-rule text-left">
            <th scope="col" className="py-1 font-semibold">
              {t`Date`}
            </th>
            {tests.map((test) => (
              <th key={test.id} scope="col" className="py-1 text-right font-semibold">
                {test.name}
                <span className="flex justify-end gap-3 font-normal">
                  <SideName side="left" />
                  <SideName side="right" />
                </span>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {list.map((s) => (
            <tr key={s.id} className="border-b border-rule">
              <th scope="row" className="py-1.5 text-left font-normal">
                <Link className="underline underline-offset-4" to={`/screenings/${s.id}`}>
                  {weekDay(s.on)}
                </Link>
                {!s.finished && <span className="block text-ink-2">{t`not finished`}</span>}
                {s.imported && <span className="block text-ink-2">{t`imported`}</span>}
              </th>
              {tests.map((it) => {
                const r = s.results.find((x) => x.test === it.id);
                const v = (n: number | undefined) => (n === undefined ? "–" : show(n, it.decimals));
                return (
                  <td key={it.id} className="py-1.5 text-right whitespace-nowrap">
                    <span className="inline-block w-14">{v(r?.left.value)}</span>
                    <span className="inline-block w-16">{v(r?.right.value)}</span>
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

const kinds: [string, string][] = [
  ["", "everything"],
  ["decision", "decisions"],
  ["answer", "answers"],
  ["plan", "plan"],
  ["flag", "flags"],
  ["run", "runs"],
  ["day", "days"],
  ["session", "sessions"],
];

export function Journal({ id }: { id: string }) {
  const j = useJournal(id);
  const [all, setAll] = useState(false);
  const [kind, setKind] = useState("");
  const [find, setFind] = useState("");
  if (!j.data) return null;
  const fits = j.data.items.filter(
    (l) => (!kind || l.kind === kind) && l.sentence.toLowerCase().includes(find.toLowerCase()),
  );
  const lines = all ? fits : fits.slice(0, 12);
  return (
    <section aria-label={t`Journal`}>
      <Title aside={t`${fits.length} lines`}>{t`Journal`}</Title>
      <div className="mb-2 flex gap-3">
        <select
          className="field min-h-9 w-40 py-1"
          aria-label={t`Kind of journal line`}
          value={kind}
          onChange={(e) => setKind(e.target.value)}
        >
          {kinds.map(([v, n]) => (
            <option key={v} value={v}>
              {n}
            </option>
          ))}
        </select>
        <input
          type="search"
          className="field min-h-9 py-1"
          aria-label={t`Find in the journal`}
          placeholder={t`find`}
          value={find}
          onChange={(e) => setFind(e.target.value)}
        />
      </div>
      <ol>
        {lines.map((l) => (
          <li key={l.id} className="border-b border-rule py-1.5 text-[14px]">
            <span className="text-ink-2">
              {moment(l.at)} · {l.imported ? t`imported` : l.by || t`engine`}
            </span>
            <span className="block">{l.sentence}</span>
          </li>
        ))}
      </ol>
      {!all && fits.length > lines.length && (
        <button type="button" className="btn-quiet mt-2" onClick={() => setAll(true)}>
          {t`Show all ${fits.length}`}
        </button>
      )}
    </section>
  );
}
