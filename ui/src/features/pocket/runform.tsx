import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { type ChangeEvent, useState } from "react";
import { dayMonth } from "../../parts/dates";
import { kept, unit } from "../../parts/measures";
import { type Shared, sharedMost } from "./keep";
import { Chip, Main, Page, Scale } from "./kit";
import type { Ready } from "./usepocket";

const read = (it: string) => Number(it.replace(",", "."));
const surfaces = ["road", "trail", "track", "treadmill", "grass", "sand"] as const;

type Picked = { name: string; data: string };

/** The bytes of a file as text that can be kept and sent. */
export function picked(f: Shared): Picked {
  const bytes = new Uint8Array(f.bytes);
  let raw = "";
  for (let i = 0; i < bytes.length; i += 0x8000) raw += String.fromCharCode(...bytes.subarray(i, i + 0x8000));
  return { name: f.name.slice(0, 200), data: btoa(raw) };
}

/** A run in ten seconds: how far, how long, how hard, whether it hurt; or its file. */
export function RunForm({
  p,
  on,
  back,
  shared,
}: {
  p: Ready;
  on: string;
  back: () => void;
  shared?: Shared;
}) {
  const [km, setKm] = useState("");
  const [minutes, setMinutes] = useState("");
  const [effort, setEffort] = useState<number>();
  const [pain, setPain] = useState<number>();
  const [where, setWhere] = useState("");
  const [limping, setLimping] = useState(false);
  const [surface, setSurface] = useState("");
  const [shoe, setShoe] = useState<"" | "usual" | "minimal" | "bare">("usual");
  const [file, setFile] = useState<Picked | undefined>(() => shared && picked(shared));
  const [wrong, setWrong] = useState("");
  const places = p.plan.places.filter((x) => x.zone);
  const good =
    file || (read(km) > 0 && kept("km", read(km)) <= 300 && read(minutes) > 0 && read(minutes) <= 2880);
  const pick = async (e: ChangeEvent<HTMLInputElement>) => {
    const f = e.target.files?.[0];
    e.target.value = "";
    if (!f) return;
    if (f.size > sharedMost) {
      setWrong(
        t`${f.name} has ${Math.round(f.size / 1048576)} MB. At most ${sharedMost >> 20} go from a phone.`,
      );
      return;
    }
    setWrong("");
    setFile(picked({ name: f.name, bytes: await f.arrayBuffer() }));
  };
  const send = async () => {
    const place = places.find((x) => `${x.zone}/${x.side ?? ""}` === where);
    const ok = await p.tell(
      file
        ? { kind: "file", on, file: { ...file, effort, pain, limping: limping || undefined } }
        : {
            kind: "run",
            on,
            run: {
              km: kept("km", read(km)),
              minutes: read(minutes),
              effort,
              pain,
              zone: pain ? place?.zone : undefined,
              side: pain ? place?.side : undefined,
              limping: limping || undefined,
              footwear: shoe,
              surface: surface || undefined,
            },
          },
    );
    if (ok) back();
  };
  return (
    <Page
      title={on === p.today ? t`A run` : t`A run on ${dayMonth(on)}`}
      back={back}
      foot={
        <Main disabled={!good} onClick={() => void send()}>
          {t`Tell my coach`}
        </Main>
      }
    >
      <div className="grid gap-4">
        {file ? (
          <p className="flex items-center justify-between gap-3 border-l-4 border-pine bg-paper p-3">
            <span className="min-w-0 break-words">
              <Trans>
                <b>{file.name}</b>
                <br />
                How far and how long is read from it.
              </Trans>
            </span>
            <button type="button" className="btn min-h-11" onClick={() => setFile(undefined)}>
              {t`Type it instead`}
            </button>
          </p>
        ) : (
          <div className="grid grid-cols-2 gap-3">
            {(
              [
                [unit("km") === "km" ? t`Kilometres` : t`Miles`, km, setKm, "6.2"],
                [t`Minutes`, minutes, setMinutes, "38"],
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
            <label className="btn col-span-2 min-h-12 whitespace-normal focus-within:outline-2">
              {t`Or pick the watch's file (FIT, GPX, TCX)`}
              <input
                type="file"
                accept=".fit,.gpx,.tcx,.gz,.zip,application/gpx+xml"
                className="sr-only"
                onChange={(e) => void pick(e)}
              />
            </label>
          </div>
        )}
        {wrong && (
          <p role="alert" className="text-clay">
            ▲ {wrong}
          </p>
        )}
        <div>
          <p className="mb-1.5 font-semibold">{t`Worst pain on it`}</p>
          <Scale
            label={t`Worst pain on the run`}
            value={pain}
            onPick={setPain}
            low={t`0 none`}
            high={t`10 worst`}
          />
        </div>
        {!!pain && places.length > 0 && !file && (
          <div className="grid grid-cols-2 gap-2">
            {places.map((x) => (
              <Chip
                key={x.name}
                on={where === `${x.zone}/${x.side ?? ""}`}
                onClick={() => setWhere(`${x.zone}/${x.side ?? ""}`)}
              >
                {x.name}
              </Chip>
            ))}
          </div>
        )}
        <Chip on={limping} onClick={() => setLimping(!limping)}>
          {t`I limped`}
        </Chip>
        <div>
          <p className="mb-1.5 font-semibold">{t`How hard it was`}</p>
          <Scale label={t`Effort`} value={effort} onPick={setEffort} low={t`0 rest`} high={t`10 all out`} />
        </div>
        {!file && (
          <>
            <div className="grid grid-cols-3 gap-2">
              {(
                [
                  ["usual", t`usual shoes`],
                  ["minimal", t`minimal shoes`],
                  ["bare", t`bare feet`],
                ] as const
              ).map(([id, name]) => (
                <Chip key={id} on={shoe === id} onClick={() => setShoe(id)}>
                  {name}
                </Chip>
              ))}
            </div>
            <div className="grid grid-cols-3 gap-2">
              {surfaces.map((x) => (
                <Chip key={x} on={surface === x} onClick={() => setSurface(surface === x ? "" : x)}>
                  {x}
                </Chip>
              ))}
            </div>
          </>
        )}
      </div>
    </Page>
  );
}
