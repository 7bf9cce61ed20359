import { t } from "@lingui/core/macro";
import { Popover } from "radix-ui";
import type { Schema } from "../../api/client";
import { SideName } from "../../parts/marks";
import { sourceText } from "../../parts/source";
import type { Test } from "./screening";

/** Why a test is not done now: a flag, or its gate. */
export function closedBy(test: Test, s: Schema["Screening"]): string {
  const flag = s.flags.find((f) => !f.cleared && (f.everything || f.tests?.includes(test.id)));
  if (flag) return `Closed until a clinician has looked: ${flag.text}`;
  const gate = s.gates.find((g) => g.gate === test.gate);
  return gate && !gate.open ? t`waits for the gate ${gate.name}` : "";
}

export function Why({ test, r, own }: { test: Test; r: Schema["JudgedResult"]; own: boolean }) {
  return (
    <Popover.Root>
      <Popover.Trigger className="btn-quiet text-[13px]" aria-label={t`How and why: ${test.name}`}>
        {t`How and why`}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          className="panel w-[min(26rem,92vw)] text-[14px]"
          sideOffset={6}
          collisionPadding={12}
        >
          <h3>{test.name}</h3>
          <p className="mt-1">{test.setUp}</p>
          <p className="mt-2">
            {test.sided && <SideName side="left" />} {r.say.left}
          </p>
          {test.sided && (
            <p className="mt-2">
              <SideName side="right" /> {r.say.right}
            </p>
          )}
          {own && (
            <p className="mt-2 font-semibold">{t`Judged with your own typical error, from your pairs.`}</p>
          )}
          <p className="mt-2 text-ink-2">
            {t`Source: ${sourceText(r.left.cut?.source ?? test.source)}.${test.noise ? t` Noise of one trial ${test.noise.sem} ${test.unit}: ${sourceText(test.noise.source)}.` : ""}${r.asymmetry.known ? t` Sides: ${sourceText(r.asymmetry.source)}.` : ""}`}
          </p>
          <Popover.Close className="btn mt-3 min-h-8">{t`Close`}</Popover.Close>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
