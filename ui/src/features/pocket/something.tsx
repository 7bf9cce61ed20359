import { t } from "@lingui/core/macro";
import { useCallback, useMemo, useState } from "react";
import { sideName } from "../../parts/sidename";
import { SoleMap } from "../../parts/solemap";
import { Chip, Main, Page, Scale } from "./kit";
import type { Ready } from "./usepocket";

type Side = "left" | "right";

/** Something new: where, how much, and the questions of that place; then what to do. */
export function SomethingNew({
  p,
  back,
  why,
  told,
}: {
  p: Ready;
  back: () => void;
  why?: string;
  told?: () => void;
}) {
  const [at, setAt] = useState<{ zone: string; side: Side }>();
  const [pain, setPain] = useState<number>();
  const [yes, setYes] = useState<string[]>([]);
  const [none, setNone] = useState(false);
  const zone = p.plan.zones.find((z) => z.id === at?.zone);
  const groups = p.plan.questions.filter((g) => (zone ? zone.groups.includes(g.name) : true));
  const send = async () => {
    const answers = {
      yes: Object.fromEntries(
        yes.map((id) => {
          const q = p.plan.questions.flatMap((g) => g.questions).find((x) => x.id === id);
          return [id, q?.side && at ? at.side : "both"];
        }),
      ) as Record<string, "left" | "right" | "both">,
      none: none
        ? groups.map((g) => g.name)
        : groups.filter((g) => !g.questions.some((q) => yes.includes(q.id))).map((g) => g.name),
    };
    const ok = await p.tell({
      kind: "morning",
      morning: {
        new: at && pain !== undefined ? [{ zone: at.zone, side: at.side, firstStep: pain }] : undefined,
        answers,
      },
    });
    if (ok) (told ?? back)();
  };
  // The map stays as it is while questions are answered.
  const marked = useMemo(() => (at ? [{ zone: at.zone, side: at.side }] : []), [at]);
  const pick = useCallback((z: string, side: Side) => setAt({ zone: z, side }), []);
  const first = !why && (!at || pain === undefined);
  return (
    <Page
      title={why ? t`Before anything else` : t`Something new`}
      aside={why ? undefined : first ? t`1 of 2` : t`2 of 2`}
      back={back}
      foot={
        <>
          <Main disabled={first || (!none && yes.length === 0)} onClick={() => void send()}>
            {t`Tell my coach`}
          </Main>
          <p className="mt-2 text-center text-[15px] text-ink-2">{t`Until you answer, the careful plan holds.`}</p>
        </>
      }
    >
      {why && <p className="mb-3 text-[18px] font-semibold">{why}</p>}
      {!why && (
        <>
          <h2 className="text-[24px]">{t`Where?`}</h2>
          <SoleMap complaints={marked} pick={pick} />
          {at && (
            <section className="mt-2 border-t-3 border-ink bg-paper p-3.5">
              <h3 className="mb-1">
                {zone?.name ?? at.zone}, {sideName(at.side)}
              </h3>
              <p className="mb-2">{t`Worst since yesterday`}</p>
              <Scale
                label={t`Worst since yesterday`}
                value={pain}
                onPick={setPain}
                low={t`0 nothing`}
                high={t`10 worst`}
              />
            </section>
          )}
        </>
      )}
      {!first && (
        <section className="mt-4">
          <h2>{t`Is one of these true?`}</h2>
          {groups.map((g) => (
            <div key={g.name} className="mt-3 grid gap-1.5">
              <p className="text-[14px] text-ink-2">{g.name}</p>
              {g.questions.map((q) => (
                <Chip
                  key={q.id}
                  on={yes.includes(q.id)}
                  onClick={() => {
                    setNone(false);
                    setYes(yes.includes(q.id) ? yes.filter((x) => x !== q.id) : [...yes, q.id]);
                  }}
                >
                  {q.text}
                </Chip>
              ))}
            </div>
          ))}
          <div className="mt-3 grid">
            <Chip
              on={none}
              onClick={() => {
                setNone(!none);
                setYes([]);
              }}
            >
              {t`None of these`}
            </Chip>
          </div>
        </section>
      )}
    </Page>
  );
}
