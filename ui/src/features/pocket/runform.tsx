import { useState } from "react";
import { Chip, Main, Page, Scale } from "./kit";
import type { Ready } from "./usepocket";

const read = (t: string) => Number(t.replace(",", "."));

/** A run in ten seconds: how far, how long, how hard, whether it hurt. */
export function RunForm({ p, on, back }: { p: Ready; on: string; back: () => void }) {
  const [km, setKm] = useState("");
  const [minutes, setMinutes] = useState("");
  const [effort, setEffort] = useState<number>();
  const [pain, setPain] = useState<number>();
  const [limping, setLimping] = useState(false);
  const [shoe, setShoe] = useState<"" | "usual" | "minimal" | "bare">("usual");
  const good = read(km) > 0 && read(km) <= 300 && read(minutes) > 0 && read(minutes) <= 2880;
  const send = async () => {
    const ok = await p.tell({
      kind: "run",
      on,
      run: {
        km: read(km),
        minutes: read(minutes),
        effort,
        pain,
        limping: limping || undefined,
        footwear: shoe,
      },
    });
    if (ok) back();
  };
  return (
    <Page
      title="A run"
      back={back}
      foot={
        <Main disabled={!good} onClick={() => void send()}>
          Tell my coach
        </Main>
      }
    >
      <div className="grid gap-4">
        <div className="grid grid-cols-2 gap-3">
          {(
            [
              ["Kilometres", km, setKm, "6.2"],
              ["Minutes", minutes, setMinutes, "38"],
            ] as const
          ).map(([label, value, set, like]) => (
            <label key={label}>
              <span className="mb-1 block font-semibold">{label}</span>
              <input
                className="field min-h-13 text-[20px]"
                inputMode="decimal"
                placeholder={like}
                value={value}
                onChange={(e) => set(e.target.value)}
              />
            </label>
          ))}
        </div>
        <div>
          <p className="mb-1.5 font-semibold">Worst pain on it</p>
          <Scale label="Worst pain on the run" value={pain} onPick={setPain} low="0 none" high="10 worst" />
        </div>
        <div>
          <p className="mb-1.5 font-semibold">How hard it was</p>
          <Scale label="Effort" value={effort} onPick={setEffort} low="0 rest" high="10 all out" />
        </div>
        <div className="grid grid-cols-3 gap-2">
          {(
            [
              ["usual", "usual shoes"],
              ["minimal", "minimal shoes"],
              ["bare", "bare feet"],
            ] as const
          ).map(([id, name]) => (
            <Chip key={id} on={shoe === id} onClick={() => setShoe(id)}>
              {name}
            </Chip>
          ))}
        </div>
        <Chip on={limping} onClick={() => setLimping(!limping)}>
          I limped
        </Chip>
      </div>
    </Page>
  );
}
