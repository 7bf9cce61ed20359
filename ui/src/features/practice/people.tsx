import { plural, t } from "@lingui/core/macro";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, need, type Schema } from "../../api/client";
import { useMe } from "../../api/hooks";
import { moment } from "../../parts/dates";
import { Field, Select } from "../../parts/field";
import { Title } from "../../parts/marks";
import { DoOrLeave } from "../../parts/orleave";
import { Failed, Loading, SaveState } from "../../parts/states";
import { usePageTitle } from "../../parts/title";
import { PracticeHead } from "./head";
import { type Link, LinkOnce } from "./once";
import { Ways } from "./ways";

export type Person = Schema["Person"];
type Role = Person["role"];

export const roleName: Record<Role, string> = { owner: t`Owner`, coach: t`Coach`, viewer: t`Viewer` };
const roles: [string, string][] = [
  ["coach", t`Coach: screens, plans, answers`],
  ["viewer", t`Viewer: looks and changes nothing`],
  ["owner", t`Owner: a coach who also decides who is here`],
];
const isRole = (r: string): r is Role => r in roleName;

export const staffKey = ["staff"];
export const useStaff = () =>
  useQuery({ queryKey: staffKey, queryFn: () => need(api.GET("/api/staff")), staleTime: 30_000 });

/** Who works here, and who is invited. */
export function PeopleView() {
  usePageTitle(t`People`, t`Practice`);
  const me = useMe();
  const staff = useStaff();
  const [link, setLink] = useState<{ for: string; link: Link }>();
  const owner = me.data?.role === "owner";
  if (staff.isPending) return <Loading what={t`the people`} />;
  if (staff.error) return <Failed error={staff.error} retry={() => void staff.refetch()} />;
  return (
    <>
      <PracticeHead />
      <h1>{t`People`}</h1>
      <p className="mt-1 mb-4 text-ink-2">
        {owner
          ? t`Who works here and what they may do. A change counts at once, on every device.`
          : t`Who works here. Owners invite and change.`}
      </p>
      {link && <LinkOnce who={link.for} link={link.link} done={() => setLink(undefined)} />}
      <ul className="mb-8 max-w-4xl">
        {staff.data.people.map((p) => (
          <Row key={p.id} p={p} all={staff.data.people} owner={owner} given={setLink} />
        ))}
      </ul>
      {owner && (
        <div className="grid max-w-4xl gap-x-10 gap-y-8 md:grid-cols-2">
          <Invite given={setLink} />
          <Open list={staff.data.invitations} />
        </div>
      )}
    </>
  );
}

type Given = (l: { for: string; link: Link }) => void;

export function useStaffChange<V>(fn: (v: V) => Promise<Schema["Staff"]>) {
  const qc = useQueryClient();
  return useMutation({
    mutationFn: fn,
    retry: false,
    onSuccess: (s) => {
      qc.setQueryData(staffKey, s);
      void qc.invalidateQueries({ queryKey: ["bench"] });
    },
  });
}

function Row({ p, all, owner, given }: { p: Person; all: Person[]; owner: boolean; given: Given }) {
  const [leaving, setLeaving] = useState(false);
  const role = useStaffChange((r: Role) =>
    need(api.PUT("/api/staff/{user}/role", { params: { path: { user: p.id } }, body: { role: r } })),
  );
  const reset = useMutation({
    mutationFn: () => need(api.POST("/api/staff/{user}/reset", { params: { path: { user: p.id } } })),
    retry: false,
    onSuccess: (l) => given({ for: t`${p.name}: a new password`, link: { ...l, way: "reset" } }),
  });
  return (
    <li className="border-b border-rule py-3">
      <div className="flex flex-wrap items-center gap-x-6 gap-y-2">
        <div className="mr-auto min-w-56">
          <b>{p.name}</b>
          {p.me && <span className="text-ink-2">{t` (you)`}</span>}
          <p className="text-[14px] text-ink-2 [overflow-wrap:anywhere]">
            {[
              p.email,
              plural(p.runners, {
                0: "no runner",
                one: "looks after 1 runner",
                other: "looks after # runners",
              }),
              p.seen && t`here ${moment(p.seen)}`,
            ]
              .filter(Boolean)
              .join(" · ")}
          </p>
        </div>
        {owner ? (
          <select
            aria-label={t`What ${p.name} may do`}
            className="field w-28"
            value={p.role}
            disabled={role.isPending}
            onChange={(e) => isRole(e.target.value) && role.mutate(e.target.value)}
          >
            {Object.entries(roleName).map(([v, n]) => (
              <option key={v} value={v}>
                {n}
              </option>
            ))}
          </select>
        ) : (
          <span>{roleName[p.role]}</span>
        )}
        {owner && (
          <div className="flex w-56 justify-end gap-x-3 max-sm:w-auto">
            {!p.me && (
              <>
                <button
                  type="button"
                  className="btn-quiet"
                  disabled={reset.isPending}
                  onClick={() => reset.mutate()}
                >
                  {t`New password`}
                </button>
                <button
                  type="button"
                  className="btn-quiet"
                  onClick={() => setLeaving((x) => !x)}
                  aria-expanded={leaving}
                >
                  {t`Remove`}
                </button>
              </>
            )}
          </div>
        )}
      </div>
      <SaveState error={role.error ?? reset.error} saving={false} />
      {owner && !p.me && <Ways p={p} />}
      {leaving && <Leaving p={p} all={all} stay={() => setLeaving(false)} />}
    </li>
  );
}

function Leaving({ p, all, stay }: { p: Person; all: Person[]; stay: () => void }) {
  const [to, setTo] = useState("");
  const go = useStaffChange(() =>
    need(api.DELETE("/api/staff/{user}", { params: { path: { user: p.id }, query: to ? { to } : {} } })),
  );
  return (
    <div className="mt-3 border-l-4 border-clay bg-paper p-4">
      <p className="mb-3">
        {t`${p.name} is signed out everywhere and can't come back without a new invitation. What they wrote stays, with their name.`}
      </p>
      {p.runners > 0 && (
        <div className="mb-3 max-w-xs">
          <Select
            label={plural(p.runners, {
              one: "Who looks after their runner",
              other: "Who looks after their # runners",
            })}
            value={to}
            onChange={setTo}
            all={t`nobody in particular`}
            options={all.filter((x) => x.id !== p.id && x.role !== "viewer").map((x) => [x.id, x.name])}
          />
        </div>
      )}
      <DoOrLeave busy={go.isPending} error={go.error} leave={stay} onDo={() => go.mutate(undefined)}>
        {t`Remove ${p.name}`}
      </DoOrLeave>
    </div>
  );
}

function Invite({ given }: { given: Given }) {
  const [role, setRole] = useState<Role>("coach");
  const [note, setNote] = useState("");
  const qc = useQueryClient();
  const go = useMutation({
    mutationFn: () => need(api.POST("/api/staff/invitations", { body: { role, note } })),
    retry: false,
    onSuccess: (l) => {
      given({ for: note || roleName[role], link: { ...l, way: "join" } });
      setNote("");
      void qc.invalidateQueries({ queryKey: staffKey });
    },
  });
  return (
    <section aria-label={t`Invite somebody`}>
      <Title>{t`Invite somebody`}</Title>
      <form
        className="grid gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          go.mutate();
        }}
      >
        <Select label={t`As`} value={role} onChange={(r) => isRole(r) && setRole(r)} options={roles} />
        <Field
          label={t`For whom`}
          hint={t`so that you know the link again`}
          maxLength={80}
          value={note}
          onChange={(e) => setNote(e.target.value)}
        />
        <div className="flex items-center gap-3">
          <button type="submit" className="btn btn-main" disabled={go.isPending}>
            {t`Make a link`}
          </button>
          <SaveState error={go.error} saving={false} />
        </div>
      </form>
    </section>
  );
}

function Open({ list }: { list: Schema["Invited"][] }) {
  const back = useStaffChange((invitation: string) =>
    need(api.DELETE("/api/staff/invitations/{invitation}", { params: { path: { invitation } } })),
  );
  return (
    <section aria-label={t`Links not used yet`}>
      <Title>{t`Links not used yet`}</Title>
      {list.length === 0 ? (
        <p className="text-ink-2">{t`None. A link is used once and ends by itself.`}</p>
      ) : (
        <ul>
          {list.map((l) => (
            <li key={l.id} className="flex flex-wrap items-center gap-x-4 border-b border-rule py-2">
              <span className="mr-auto">
                <b>{l.note || (l.role ? roleName[l.role as Role] : "")}</b>
                <span className="block text-[14px] text-ink-2">
                  {l.kind === "reset" ? t`a new password` : l.role && roleName[l.role as Role]}
                  {t`, until ${moment(l.until)}`}
                </span>
              </span>
              <button type="button" className="btn-quiet" onClick={() => back.mutate(l.id)}>
                {t`Take back`}
              </button>
            </li>
          ))}
        </ul>
      )}
      <SaveState error={back.error} saving={false} />
    </section>
  );
}
