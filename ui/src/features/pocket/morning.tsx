import { t } from "@lingui/core/macro";
import { useState } from "react";
import { dayMonth } from "../../parts/dates";
import { Chip, Main, Page, Scale } from "./kit";
import type { Ready } from "./usepocket";

type Reading = { firstStep?: number; rest?: number };

/** First steps of each place, rest, sleep, illness: told in a few taps. */
export function Morning({
  p,
  on,
  first,
  back,
  somethingNew,
}: {
  p: Ready;
  on: string;
  first?: number;
  back: () => void;
  somethingNew: () => void;
}) {
  const places = p.plan.places;
  const [list, setList] = useState<Record<string, Reading>>(
    first === undefined ? {} : { [keyOf(places[0])]: { firstStep: first } },
  );
  const [sleep, setSleep] = useState(false);
  const [ill, setIll] = useState<"" | "cold" | "fever">("");
  const [tender, setTender] = useState(false);
  const [rest, setRest] = useState(false);
  const set = (key: string, part: Reading) => setList({ ...list, [key]: { ...list[key], ...part } });
  const any =
    Object.values(list).some((r) => r.firstStep !== undefined || r.rest !== undefined) ||
    sleep ||
    ill ||
    tender;
  const send = async () => {
    const readings = places.flatMap((x) => {
      const r = list[keyOf(x)];
      return r ? [{ zone: x.zone, side: x.side, ...r }] : [];
    });
    const ok = await p.tell({
      kind: "morning",
      on,
      morning: { readings, poorSleep: sleep || undefined, illness: ill, boneTender: tender || undefined },
    });
    if (ok) back();
  };
  return (
    <Page
      title={on === p.today ? t`This morning` : t`The morning of ${dayMonth(on)}`}
      back={back}
      foot={
        <Main disabled={!any} onClick={() => void send()}>
          {t`Tell my coach`}
        </Main>
      }
    >
      <div className="grid gap-5">
        {places.map((x, i) => (
          <div key={keyOf(x)}>
            <h2 className="mb-1.5 text-[18px]">
              {t`First steps${x.zone ? `: ${x.name}` : places.length > 1 ? t`, in general` : ""}`}
            </h2>
            <Scale
              label={t`First steps, ${x.name}`}
              value={list[keyOf(x)]?.firstStep}
              onPick={(firstStep) => set(keyOf(x), { firstStep })}
              low={i === 0 ? t`0 nothing` : undefined}
              middle={t`your usual is ${Math.round(x.usual)}`}
              high={i === 0 ? t`10 worst` : undefined}
            />
            {rest && (
              <div className="mt-2">
                <p className="mb-1 text-[15px]">{t`At rest`}</p>
                <Scale
                  label={t`At rest, ${x.name}`}
                  value={list[keyOf(x)]?.rest}
                  onPick={(n) => set(keyOf(x), { rest: n })}
                />
              </div>
            )}
          </div>
        ))}
        <div className="grid grid-cols-2 gap-2">
          <Chip on={rest} onClick={() => setRest(!rest)}>
            {t`Hurts at rest too`}
          </Chip>
          <Chip on={sleep} onClick={() => setSleep(!sleep)}>
            {t`Slept badly`}
          </Chip>
          <Chip on={ill === "cold"} onClick={() => setIll(ill === "cold" ? "" : "cold")}>
            {t`A cold`}
          </Chip>
          <Chip on={ill === "fever"} onClick={() => setIll(ill === "fever" ? "" : "fever")}>
            {t`Fever, or ill all over`}
          </Chip>
          <Chip on={tender} onClick={() => setTender(!tender)}>
            {t`A bone of the foot is tender`}
          </Chip>
          <button
            type="button"
            className="btn min-h-12 justify-start px-3 text-left whitespace-normal"
            onClick={somethingNew}
          >
            {t`Something new hurts`}
          </button>
        </div>
      </div>
    </Page>
  );
}

const keyOf = (x: { zone?: string; side?: string } | undefined) => `${x?.zone ?? ""}/${x?.side ?? ""}`;
