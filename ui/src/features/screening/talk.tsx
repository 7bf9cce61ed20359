import { t } from "@lingui/core/macro";
import { useQuery } from "@tanstack/react-query";
import { api, need, type Schema } from "../../api/client";
import { Area, Choice } from "../../parts/field";
import { SideName, Title } from "../../parts/marks";
import { SoleMap } from "../../parts/solemap";
import { SaveState } from "../../parts/states";
import { Tick, withOrWithout } from "../../parts/tick";
import { type Complaint, ComplaintPart } from "./complaint";
import { growing, NumberField, numbers } from "./numbers";
import { QuestionGroup } from "./questions";
import { useTalk } from "./talking";

type Screening = Schema["Screening"];

/** Complaints, safety questions, training and shoes; every change is kept at once. */
export function TalkStation({ s, locked, reason }: { s: Screening; locked: boolean; reason: string }) {
  const { talk, put, error } = useTalk(s, reason);
  const zones = useQuery({
    queryKey: ["zones"],
    queryFn: () => need(api.GET("/api/zones")),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const change = (i: number, part: Partial<Complaint>) =>
    put({ ...talk, complaints: talk.complaints.map((c, n) => (n === i ? { ...c, ...part } : c)) });
  const pick = (zone: string, side: "left" | "right") => {
    if (locked) return;
    const there = talk.complaints.some((c) => c.zone === zone && c.side === side);
    put({
      ...talk,
      complaints: there
        ? talk.complaints.filter((c) => c.zone !== zone || c.side !== side)
        : [...talk.complaints, { zone, side }],
    });
  };
  const zoneName = (z: string) => zones.data?.items.find((x) => x.id === z)?.name ?? z;
  return (
    <fieldset disabled={locked} className="mb-6 grid gap-x-10 gap-y-6 lg:grid-cols-2">
      <legend className="sr-only">{t`Talk`}</legend>
      <section aria-label={t`Where it hurts`}>
        <Title aside={t`tap to add, tap again to take away`}>{t`Where it hurts`}</Title>
        <SoleMap complaints={talk.complaints} pick={pick} />
        <label className="mt-2 flex flex-wrap items-center gap-2 text-[14px]">
          {t`Another place`}
          <select
            className="field min-h-8 w-auto"
            value=""
            onChange={(e) => {
              const [zone, side] = e.target.value.split("/");
              if (zone) pick(zone, side as "left" | "right");
            }}
          >
            <option value="">{t`choose`}</option>
            {["thigh", "hip", "groin", "other"].flatMap((z) =>
              (["left", "right"] as const).map((side) => (
                <option key={`${z}${side}`} value={`${z}/${side}`}>
                  {z === "other" ? t`somewhere else` : z}, {side}
                </option>
              )),
            )}
          </select>
        </label>
        {talk.complaints.length === 0 && <p className="mt-2 text-ink-2">{t`No complaints: prevention.`}</p>}
        {talk.complaints.map((c, i) => (
          <ComplaintPart
            key={`${c.zone}${c.side}`}
            c={c}
            name={zoneName(c.zone)}
            change={(part) => change(i, part)}
            drop={() => pick(c.zone, c.side)}
          />
        ))}
        <div className="mt-5 grid gap-4">
          <fieldset className="flex flex-wrap items-center gap-x-4">
            <legend className="font-semibold">{t`Ankle twisted before`}</legend>
            {(["left", "right"] as const).map((side) => (
              <Tick
                key={side}
                label={<SideName side={side} />}
                on={talk.outerAnkleHistory?.includes(side) ?? false}
                onChange={(on) =>
                  put({ ...talk, outerAnkleHistory: withOrWithout(talk.outerAnkleHistory, side, on) })
                }
              />
            ))}
          </fieldset>
          <div className="grid grid-cols-2 gap-3 md:grid-cols-3">
            {numbers.map(([k, label]) => (
              <NumberField key={k} label={label} value={talk[k]} set={(v) => put({ ...talk, [k]: v })} />
            ))}
            <Choice
              label={t`Floor at home and at work`}
              options={[
                { value: "hard", label: t`hard` },
                { value: "mixed", label: t`mixed` },
                { value: "soft", label: t`soft` },
              ]}
              value={talk.floor || undefined}
              onChange={(floor) => put({ ...talk, floor })}
            />
            <Choice
              label={t`Insoles`}
              options={[
                { value: "yes", label: t`yes` },
                { value: "no", label: t`no` },
              ]}
              value={talk.insoles === undefined ? undefined : talk.insoles ? "yes" : "no"}
              onChange={(v) => put({ ...talk, insoles: v === "yes" })}
            />
          </div>
          <Area
            label={t`Training`}
            hint={t`Run days, equipment, surfaces`}
            rows={2}
            maxLength={2000}
            value={talk.training ?? ""}
            onChange={(e) => put({ ...talk, training: e.target.value })}
          />
          <Area
            label={t`Shoes and bare feet`}
            hint={t`Flexible or stiff, worn edge, room for the toes, km on the pair`}
            rows={2}
            maxLength={2000}
            value={talk.shoes ?? ""}
            onChange={(e) => put({ ...talk, shoes: e.target.value })}
          />
        </div>
        <SaveState error={error} saving={false} />
      </section>
      <section aria-label={t`Safety questions`}>
        <Title aside={s.unasked.length > 0 ? t`${s.unasked.length} groups open` : t`all asked`}>
          {t`Before anything else`}
        </Title>
        <p className="mb-3 text-ink-2">{t`Ask each group. Unanswered counts as the cautious answer.`}</p>
        {s.minor && (
          <div className="mb-3 border-l-4 border-ink bg-paper p-3 text-[14px]">
            {t`Under 18, or age not known: a guardian's consent first. No waivers; under 16 no heavy loads, no maximal effort and no one-legged hops; under 12 games and balance only.`}
            <Tick
              className="mt-2 flex items-center gap-2 font-semibold"
              label={t`a guardian has agreed`}
              on={talk.guardianConsent ?? false}
              onChange={(guardianConsent) => put({ ...talk, guardianConsent })}
            />
            <div className="mt-3 grid grid-cols-2 gap-3">
              {growing.map(([k, label]) => (
                <NumberField key={k} label={label} value={talk[k]} set={(v) => put({ ...talk, [k]: v })} />
              ))}
              <Choice
                label={t`A day a week without sport`}
                options={[
                  { value: "yes", label: t`yes` },
                  { value: "no", label: t`no` },
                ]}
                value={talk.dayOff === undefined ? undefined : talk.dayOff ? "yes" : "no"}
                onChange={(v) => put({ ...talk, dayOff: v === "yes" })}
              />
            </div>
          </div>
        )}
        {s.questions.map((g) => (
          <QuestionGroup key={g.name} g={g} answers={talk.flags} set={(flags) => put({ ...talk, flags })} />
        ))}
      </section>
    </fieldset>
  );
}
