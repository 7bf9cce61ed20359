import { t } from "@lingui/core/macro";
import type { Schema } from "../../api/client";
import { SideName, Title } from "../../parts/marks";
import { show } from "../../parts/numbers";
import { Reasons } from "../../parts/reasons";
import { sourceText } from "../../parts/source";

type Finding = Schema["ScreeningFinding"];

const weight = ["", "slight", "clear", "strong"];

/** What limits the runner, how sure that is, and what waits. */
export function Findings({
  findings,
  choose,
}: {
  findings: Finding[];
  /** Lets the coach promote, demote or remark; left out where findings are only shown. */
  choose?: (f: Finding) => React.ReactNode;
}) {
  return (
    <section aria-label={t`Findings`}>
      <Title
        aside={findings.length > 3 ? t`three are worked on, the rest wait` : undefined}
      >{t`Findings`}</Title>
      {findings.length === 0 && (
        <p className="text-ink-2">{t`Nothing limits this runner in what is measured so far.`}</p>
      )}
      <ol className="grid gap-x-8 md:grid-cols-3">
        {findings.map((f, i) => (
          <li
            key={`${f.factor}-${f.name}`}
            className={`border-t-4 py-2 ${f.workedOn ? "border-ink" : "border-rule text-ink-2"}`}
          >
            <p className="flex items-baseline justify-between gap-2">
              <span className="display text-[17px] leading-tight font-semibold">
                {i + 1}. {f.name}
              </span>
              <SideName side={f.side} />
            </p>
            <p className="text-[14px]">
              {weight[f.severity]}, {f.confidence}
              {f.workedOn ? "" : ` · ${f.waits}`}
              {f.moved?.startsWith("promoted") && t` · promoted by you`}
            </p>
            <p className="text-[14px] text-ink-2">{f.do}</p>
            {f.uneven?.map((u) => (
              <p key={u.test} className="text-[14px]">
                {u.name}: <SideName side={u.first} />
                {t` first, one set more`}
              </p>
            ))}
            {f.remark && <p className="text-[14px]">“{f.remark}”</p>}
            <p className="flex flex-wrap gap-x-3">
              <Reasons label={t`Why`} title={f.name}>
                <p>{f.explains}</p>
                <ul className="my-2 border-y border-rule py-2">
                  {f.evidence.map((e) => (
                    <li key={`${e.test}${e.name}${e.side}`} className="py-0.5">
                      {e.side !== "both" && <SideName side={e.side} />} {e.name}{" "}
                      <b>
                        {e.label ??
                          (e.value === undefined ? "" : `${show(e.value, e.decimals)}${unit(e.unit)}`)}
                      </b>
                      {e.margin !== undefined && ` ± ${show(e.margin, 1)}`}: {e.verdict}
                    </li>
                  ))}
                </ul>
                <p>
                  {t`Priority ${f.priority.total} = severity ${f.priority.severity} × relevance ${f.priority.relevance} × lever ${f.priority.lever}`}
                </p>
                {f.evidence[0] && (
                  <p className="text-ink-2">{t`Source: ${sourceText(f.evidence[0].source)}.`}</p>
                )}
              </Reasons>
              {choose?.(f)}
            </p>
          </li>
        ))}
      </ol>
    </section>
  );
}

const unit = (u: string) => (u === "°" || u === "%" || u === "/10" ? u : u === "class" ? "" : ` ${u}`);
