import type { Schema } from "../api/client";
import { SideName, Title } from "../parts/marks";
import { show } from "../parts/numbers";
import { Reasons } from "../parts/reasons";
import { sourceText } from "./screening";

type Finding = Schema["ScreeningFinding"];

const weight = ["", "slight", "clear", "strong"];

/** What limits the runner, how sure that is, and what waits. */
export function Findings({ findings, tests }: { findings: Finding[]; tests: Schema["ScreeningTest"][] }) {
  const name = (id: string) => tests.find((t) => t.id === id)?.name ?? id;
  const decimals = (id: string) => tests.find((t) => t.id === id)?.decimals ?? 1;
  return (
    <section aria-label="Findings">
      <Title aside={findings.length > 3 ? "three are worked on, the rest wait" : undefined}>Findings</Title>
      {findings.length === 0 && (
        <p className="text-ink-2">Nothing limits this runner in what is measured so far.</p>
      )}
      <ol className="grid gap-x-8 md:grid-cols-3">
        {findings.map((f, i) => (
          <li
            key={`${f.factor}-${f.name}`}
            className={`border-t-4 py-2 ${f.workedOn ? "border-ink" : "border-rule text-ink-2"}`}
          >
            <p className="flex items-baseline justify-between gap-2">
              <span className="display text-[17px] font-semibold">
                {i + 1}. {f.name}
              </span>
              <SideName side={f.side} />
            </p>
            <p className="text-[14px]">
              {weight[f.severity]}, {f.confidence}
              {f.workedOn ? "" : ` · ${f.waits}`}
            </p>
            <p className="text-[14px] text-ink-2">{f.do}</p>
            <Reasons label="why" title={f.name}>
              <p>{f.explains}</p>
              <ul className="my-2 border-y border-rule py-2">
                {f.evidence.map((e) => (
                  <li key={`${e.test}${e.side}`} className="py-0.5">
                    <SideName side={e.side} /> {name(e.test)}{" "}
                    <b>
                      {show(e.value, decimals(e.test))}
                      {e.unit === "°" ? "°" : ` ${e.unit}`}
                    </b>
                    {e.margin !== undefined && ` ± ${show(e.margin, 1)}`}: {e.verdict}
                  </li>
                ))}
              </ul>
              <p>
                Priority {f.priority.total} = severity {f.priority.severity} × relevance{" "}
                {f.priority.relevance} × lever {f.priority.lever}
              </p>
              {f.evidence[0] && <p className="text-ink-2">Cut-offs: {sourceText(f.evidence[0].source)}.</p>}
            </Reasons>
          </li>
        ))}
      </ol>
    </section>
  );
}
