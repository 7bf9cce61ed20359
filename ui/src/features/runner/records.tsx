import { plural, t } from "@lingui/core/macro";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, need, type Schema } from "../../api/client";
import { barQuery, useMe } from "../../api/hooks";
import { dayMonth } from "../../parts/dates";
import { Field, Select } from "../../parts/field";
import { Title } from "../../parts/marks";
import { SaveState } from "../../parts/states";
import { useStaff } from "../practice/people";
import { Consents } from "./consents";

/** What the practice keeps of a runner, who looks after them, and how it ends. */
export function Records({ id }: { id: string }) {
  const me = useMe();
  const bar = useQuery(barQuery(id));
  const may = me.data && me.data.role !== "viewer";
  const owner = me.data?.role === "owner";
  return (
    <div className="grid content-start gap-8">
      {may && <Coach id={id} coach={bar.data?.coach ?? ""} />}
      <Consents id={id} may={!!may} />
      <section aria-label={t`Records`}>
        <Title>{t`Records`}</Title>
        <p className="mb-2">
          <a className="btn" href={`/api/runners/${id}/pack`} download>
            {t`Export this runner`}
          </a>
        </p>
        <p className="mb-4 text-[14px] text-ink-2">
          {t`Everything known about this runner with clips, pictures, the plan and what was agreed, as one archive.`}
        </p>
        {owner && (
          <p className="mb-4">
            <Link className="btn" to={`/practice/access?runner=${id}`}>
              {t`Who looked at this page`}
            </Link>
          </p>
        )}
        {may && <Away id={id} away={bar.data?.archived} />}
        {owner && <Delete id={id} />}
      </section>
    </div>
  );
}

function Coach({ id, coach }: { id: string; coach: string }) {
  const staff = useStaff();
  const qc = useQueryClient();
  const save = useMutation({
    mutationFn: (c: string) =>
      need(api.PUT("/api/runners/{id}/coach", { params: { path: { id } }, body: { coach: c } })),
    onSuccess: () => {
      void qc.invalidateQueries({ queryKey: ["bench"] });
      void qc.invalidateQueries({ queryKey: ["staff"] });
    },
  });
  return (
    <section aria-label={t`Looked after by`}>
      <Title>{t`Looked after by`}</Title>
      <Select
        quiet
        label={t`the bench can show one coach's runners only`}
        value={save.isPending ? (save.variables ?? "") : coach}
        onChange={(c) => save.mutate(c)}
        all={t`nobody in particular`}
        options={(staff.data?.people ?? []).filter((p) => p.role !== "viewer").map((p) => [p.id, p.name])}
      />
      <SaveState error={save.error} saving={false} />
    </section>
  );
}

function Away({ id, away }: { id: string; away?: string }) {
  const qc = useQueryClient();
  const save = useMutation({
    mutationFn: (to: boolean) =>
      need(api.PUT("/api/runners/{id}/archive", { params: { path: { id } }, body: { away: to } })),
    onSuccess: () => {
      for (const k of ["bench", "archive", "journal"]) void qc.invalidateQueries({ queryKey: [k] });
    },
  });
  return (
    <div className="mb-4">
      <button type="button" className="btn" disabled={save.isPending} onClick={() => save.mutate(!away)}>
        {away ? t`Back on the bench` : t`Take off the bench`}
      </button>
      <p className="mt-1 text-[14px] text-ink-2">
        {away
          ? t`Off the bench since ${dayMonth(away)}.`
          : t`Records are kept; the phone, calendars and the nightly review end.`}
      </p>
      <SaveState error={save.error} saving={false} />
    </div>
  );
}

const whys: [string, string][] = [
  ["asked", t`the runner asked for it`],
  ["left", t`the runner has left`],
  ["mistake", t`entered by mistake`],
];
type Why = Schema["DeleteRunnerRequest"]["why"];

/** Two steps: what goes, then the name once more. */
function Delete({ id }: { id: string }) {
  const [open, setOpen] = useState(false);
  const [name, setName] = useState("");
  const [why, setWhy] = useState("");
  const go = useNavigate();
  const qc = useQueryClient();
  const foot = useQuery({
    queryKey: ["footprint", id],
    queryFn: () => need(api.GET("/api/runners/{id}/footprint", { params: { path: { id } } })),
    enabled: open,
    staleTime: 0,
  });
  const end = useMutation({
    mutationFn: () =>
      need(
        api.POST("/api/runners/{id}/deletion", { params: { path: { id } }, body: { name, why: why as Why } }),
      ),
    retry: false,
    onSuccess: () => {
      go("/");
      qc.removeQueries({ predicate: (q) => q.queryKey.includes(id) });
      for (const k of ["bench", "archive", "staff"]) void qc.invalidateQueries({ queryKey: [k] });
    },
  });
  if (!open)
    return (
      <button type="button" className="btn-quiet text-clay" onClick={() => setOpen(true)}>
        {t`Delete everything about this runner…`}
      </button>
    );
  const f = foot.data;
  return (
    <div className="border-l-4 border-clay bg-paper p-4">
      <p className="font-semibold">{t`Deleted for good, here and on phones:`}</p>
      {f && (
        <p className="my-2">
          {[
            plural(f.screenings, { one: "1 screening", other: "# screenings" }),
            plural(f.blocks, { one: "1 block", other: "# blocks" }),
            plural(f.sessions, { one: "1 session", other: "# sessions" }),
            plural(f.runs, { one: "1 run", other: "# runs" }),
            plural(f.clips, { 0: "no clip", one: "1 clip or photo", other: "# clips and photos" }),
            plural(f.journal, { one: "1 line of the journal", other: "# lines of the journal" }),
          ].join(", ")}
        </p>
      )}
      <p className="mb-3 text-[14px] text-ink-2">
        {t`Backups made before keep it until they are rotated out; a restore deletes it again. Export first if it may be needed.`}
      </p>
      <div className="grid gap-3">
        <Select label={t`Why`} value={why} onChange={setWhy} all={t`choose`} options={whys} />
        <Field
          label={t`Type the name: ${f?.name ?? ""}`}
          value={name}
          maxLength={120}
          autoComplete="off"
          onChange={(e) => setName(e.target.value)}
        />
        <div className="flex flex-wrap items-center gap-3">
          <button
            type="button"
            className="btn"
            disabled={end.isPending || !why || !f || name.trim().toLowerCase() !== f.name.toLowerCase()}
            onClick={() => end.mutate()}
          >
            {t`Delete for good`}
          </button>
          <button type="button" className="btn-quiet" onClick={() => setOpen(false)}>
            {t`Leave it`}
          </button>
        </div>
        <SaveState error={end.error} saving={end.isPending} />
      </div>
    </div>
  );
}
