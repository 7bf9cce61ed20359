import { t } from "@lingui/core/macro";
import { useEffect, useRef, useState } from "react";
import { moment } from "../../parts/dates";

export type Link = { token: string; until: string; way: "join" | "reset" };

/** A link on the one occasion it is shown. */
export function LinkOnce({ who, link, done }: { who: string; link: Link; done: () => void }) {
  const box = useRef<HTMLInputElement>(null);
  const [copied, setCopied] = useState(false);
  const address = `${location.origin}/join#${link.token}`;
  // biome-ignore lint/correctness/useExhaustiveDependencies: each new link is put in hand
  useEffect(() => {
    setCopied(false);
    box.current?.select();
  }, [link.token]);
  return (
    <section aria-label={t`The link`} className="mb-6 max-w-4xl border-l-4 border-ink bg-paper p-4">
      <p className="mb-2">
        <b>{who}</b>
        {t`: give this link to that person alone. It is shown once, works once, and ends ${moment(link.until)}.`}
      </p>
      <div className="flex flex-wrap items-center gap-3">
        <input ref={box} readOnly aria-label={t`The link`} className="field max-w-2xl" value={address} />
        <button
          type="button"
          className="btn"
          onClick={() => {
            // Without https a page may not write to the clipboard: the link is marked instead.
            const said = navigator.clipboard?.writeText(address);
            if (said) void said.then(() => setCopied(true));
            else box.current?.select();
          }}
        >
          {t`Copy`}
        </button>
        <button type="button" className="btn-quiet" onClick={done}>
          {t`Done`}
        </button>
        <span role="status">{copied ? t`Copied.` : ""}</span>
      </div>
    </section>
  );
}
