import { plural, t } from "@lingui/core/macro";
import { useState } from "react";
import { api, need } from "../../api/client";
import { SaveState } from "../../parts/states";
import { type Person, useStaffChange } from "./people";
import { KeyList } from "./programs";

/** The ways somebody comes in beside their password: an owner can close each. */
export function Ways({ p }: { p: Person }) {
  const [sure, setSure] = useState(false);
  const off = useStaffChange(() =>
    need(api.DELETE("/api/staff/{user}/second", { params: { path: { user: p.id } } })),
  );
  const back = useStaffChange((key: string) =>
    need(api.DELETE("/api/staff/{user}/keys/{key}", { params: { path: { user: p.id, key } } })),
  );
  if (!p.second && !p.keys?.length) return null;
  return (
    <details className="mt-2 max-w-xl">
      <summary className="cursor-pointer">
        {t`How ${p.name} comes in: `}
        {[
          p.second && t`second device`,
          p.keys?.length && plural(p.keys.length, { one: "a program", other: "# programs" }),
        ]
          .filter(Boolean)
          .join(", ")}
      </summary>
      {p.second && (
        <div className="flex flex-wrap items-center gap-x-4 border-b border-rule py-2">
          <span className="mr-auto">
            {sure
              ? t`Only where device and recovery codes are lost: the password alone lets ${p.name} in then.`
              : t`With a second device`}
          </span>
          <button
            type="button"
            className="btn-quiet"
            disabled={off.isPending}
            onClick={() => (sure ? off.mutate(undefined) : setSure(true))}
          >
            {sure ? t`Take it off and sign out` : t`Take it off`}
          </button>
        </div>
      )}
      <KeyList keys={p.keys ?? []} back={(k) => back.mutate(k.id)} />
      <SaveState error={off.error ?? back.error} saving={false} />
    </details>
  );
}
