import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { lazy, Suspense, useState } from "react";
import { Link } from "react-router";
import type { Schema } from "../../api/client";
import { dayMonth } from "../../parts/dates";

const ClearanceForm = lazy(async () => ({ default: (await import("./clearance")).ClearanceForm }));

type Screening = Schema["Screening"];

/** What a flag asks for, at the top of everything, with the clearance that re-opens it. */
export function FlagBanner({ s }: { s: Screening }) {
  const [open, setOpen] = useState("");
  const standing = s.flags.filter((f) => !f.cleared);
  const cleared = s.clearances.filter((c) => c.runs);
  if (standing.length === 0 && cleared.length === 0) return null;
  const emergency = standing.some((f) => f.level === "emergency");
  return (
    <div className="mb-4">
      {standing.length > 0 && (
        <div
          role="alert"
          className={`border-l-8 p-4 ${emergency ? "border-clay bg-clay text-chalk" : "border-clay bg-clay-wash"}`}
        >
          <h2>{emergency ? t`Stop. Care is needed now.` : t`A clinician should look`}</h2>
          {emergency && (
            <p>
              {t`No test, no plan, no running until a clinician has looked. In doubt call the local emergency number.`}
            </p>
          )}
          <ul className="mt-1">
            {standing.map((f) => (
              <li key={`${f.flag}${f.level}${f.side}`} className="flex flex-wrap items-baseline gap-x-3">
                <span>
                  {f.text}
                  {f.side ? `, ${f.side}` : ""}.
                </span>
                {f.level !== "note" && (
                  <button
                    type="button"
                    className="underline underline-offset-4"
                    onClick={() => setOpen(open === f.flag ? "" : f.flag)}
                  >
                    {t`Note a clearance`}
                  </button>
                )}
              </li>
            ))}
          </ul>
          <Link className="btn mt-3 text-ink" to={`/screenings/${s.id}/refer`}>
            {t`Sheet for the clinician`}
          </Link>
        </div>
      )}
      {open && (
        <Suspense fallback={null}>
          <ClearanceForm s={s} flag={open} done={() => setOpen("")} />
        </Suspense>
      )}
      {cleared.map((c) => (
        <p key={`${c.flag}${c.on}`} className="mt-2 border-l-4 border-ink bg-paper p-2 text-[14px]">
          <Trans>
            <b>{s.flags.find((f) => f.flag === c.flag)?.text ?? t`A flag`}</b>: cleared by a {c.role} on{" "}
            {dayMonth(c.on)}: {c.allowed}. Until {dayMonth(c.until)}
          </Trans>
          {c.soon && <b className="text-clay">{t` ▲ ends within seven days`}</b>}
        </p>
      ))}
    </div>
  );
}
