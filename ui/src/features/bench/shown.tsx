import { plural, t } from "@lingui/core/macro";
import type { ReactNode } from "react";
import type { Schema } from "../../api/client";
import type { Item } from "./target";

type Group = Item["group"];

export const groups: { id: Group; name: string; many: (n: number) => string }[] = [
  { id: "now", name: t`Now`, many: (n) => plural(n, { one: "1 needs you now", other: "# need you now" }) },
  { id: "review", name: t`To review`, many: (n) => plural(n, { one: "1 to review", other: "# to review" }) },
  { id: "silent", name: t`Silent`, many: (n) => t`${n} silent` },
  {
    id: "waiting",
    name: t`Waiting for tests or a plan`,
    many: (n) => plural(n, { one: "1 waits for tests or a plan", other: "# wait for tests or a plan" }),
  },
  { id: "well", name: t`Well`, many: (n) => plural(n, { one: "1 is well", other: "# are well" }) },
];

export const filters = ["all", ...groups.map((g) => g.id)] as const;
export type Filter = (typeof filters)[number];

function Pick({
  label,
  value,
  onChange,
  children,
}: {
  label: string;
  value: string;
  onChange: (v: string) => void;
  children: ReactNode;
}) {
  return (
    <label className="flex items-center gap-2">
      {label}
      <select className="field min-h-9 w-auto py-1" value={value} onChange={(e) => onChange(e.target.value)}>
        {children}
      </select>
    </label>
  );
}

/** Which runners the bench shows, and in which order. */
export function Shown({
  filter,
  show,
  coaches,
  by,
  choose,
  byName,
  sort,
}: {
  filter: Filter;
  show: (f: Filter) => void;
  coaches: Schema["Person"][];
  by: string;
  choose: (coach: string) => void;
  byName: boolean;
  sort: (byName: boolean) => void;
}) {
  return (
    <div className="mb-2 hidden flex-wrap items-center gap-x-4 gap-y-1 text-[14px] sm:flex">
      <Pick label={t`Show`} value={filter} onChange={(v) => show(filters.find((f) => f === v) ?? "all")}>
        <option value="all">{t`everybody`}</option>
        {groups.map((g) => (
          <option key={g.id} value={g.id}>
            {g.name}
          </option>
        ))}
      </Pick>
      {coaches.length > 1 && (
        <Pick
          label={t`looked after by`}
          value={by}
          onChange={(v) => {
            localStorage.setItem("bench-whose", v);
            choose(v);
          }}
        >
          <option value="">{t`anybody`}</option>
          {coaches.map((c) => (
            <option key={c.id} value={c.id}>
              {c.me ? t`me` : c.name}
            </option>
          ))}
        </Pick>
      )}
      <Pick label={t`sorted by`} value={byName ? "name" : "what"} onChange={(v) => sort(v === "name")}>
        <option value="what">{t`what to do`}</option>
        <option value="name">{t`name`}</option>
      </Pick>
      <span className="ml-auto hidden text-ink-2 md:inline">
        {t`last 14 days: first-step pain over kilometres`}
      </span>
    </div>
  );
}
