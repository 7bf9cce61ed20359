import { t } from "@lingui/core/macro";
import type { Schema } from "../api/client";

/** The one page under an emergency: what to do, and why. Nothing else stands beside it. */
export function CarePage({ care, name }: { care: Schema["WordsCare"]; name?: string }) {
  return (
    <section
      role="alert"
      aria-label={care.title}
      className="mb-6 max-w-3xl border-l-8 border-clay bg-clay-wash p-6"
    >
      {name && <p className="text-ink-2">{name}</p>}
      <h2 className="text-[28px] text-clay">▲ {care.title}</h2>
      <p className="mt-2 text-[19px] font-semibold">{care.do}</p>
      {care.text && <p className="mt-2 text-[17px] whitespace-pre-wrap">{care.text}</p>}
      <p className="mt-4 font-semibold">{t`Because`}</p>
      <ul className="list-disc pl-5">
        {care.signs.map((x) => (
          <li key={x}>{x}</li>
        ))}
      </ul>
      <p className="mt-4">{care.after}</p>
    </section>
  );
}
