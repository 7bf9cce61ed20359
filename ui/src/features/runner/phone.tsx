import { plural, t } from "@lingui/core/macro";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import * as z from "zod/mini";
import { api, need, type Schema } from "../../api/client";
import { dayMonth } from "../../parts/dates";
import { Area } from "../../parts/field";
import { needed, useChecked } from "../../parts/form";
import { Title } from "../../parts/marks";
import { SaveState } from "../../parts/states";

type Heard = Schema["PocketHeardView"];

const states: Record<Heard["reports"][number]["state"], string> = {
  received: t`just in`,
  taken: "",
  double: "told twice; counted once",
  refused: t`not taken`,
};

/** What came in from a runner's phone, the words, the phones, and the way in. */
export function Phone({ id, name }: { id: string; name: string }) {
  const qc = useQueryClient();
  const key = ["pocket", id];
  const heard = useQuery({
    queryKey: key,
    queryFn: () => need(api.GET("/api/runners/{id}/pocket", { params: { path: { id } } })),
    refetchInterval: 30_000,
  });
  const keep = (h: Heard) => qc.setQueryData(key, h);
  const looked = useMutation({
    mutationFn: () => need(api.POST("/api/runners/{id}/pocket/looked", { params: { path: { id } } })),
    onSuccess: keep,
  });
  const h = heard.data;
  if (!h) return null;
  return (
    <section aria-label={t`The runner's phone`} className="mb-8">
      <Title aside={h.last ? t`last heard of ${when(h.last)}` : t`no phone yet`}>{t`The phone`}</Title>
      {h.new > 0 && (
        <p className="mb-2 flex items-center gap-3 font-semibold text-pine">
          {t`${h.new} new since you looked`}
          <button type="button" className="btn-quiet" onClick={() => looked.mutate()}>
            {t`Looked at`}
          </button>
        </p>
      )}
      {h.reports.slice(0, 8).map((r) => (
        <p key={r.id} className="border-b border-rule py-1 text-[14px]">
          {r.new && <b className="text-pine">{t`new `}</b>}
          {r.words}
          <span className="text-ink-2">
            {" · "}
            {dayMonth(r.on)}
            {r.late && t`, told later`}
          </span>
          {states[r.state] && (
            <b className={r.state === "refused" ? "text-clay" : "text-ink-2"}> · {states[r.state]}</b>
          )}
          {r.why && r.state === "refused" && <span className="block text-ink-2">{r.why}</span>}
        </p>
      ))}
      <Words id={id} h={h} keep={keep} first={name.split(" ")[0] ?? name} />
      <Devices id={id} h={h} keep={keep} again={() => void heard.refetch()} />
    </section>
  );
}

const when = (iso: string) => `${dayMonth(iso.slice(0, 10))}, ${new Date(iso).toTimeString().slice(0, 5)}`;

const rules = z.object({ text: needed(t`A few words`) });

function Words({ id, h, keep, first }: { id: string; h: Heard; keep: (h: Heard) => void; first: string }) {
  const f = useChecked(rules, { text: "" }, `words:${id}`);
  const send = useMutation({
    mutationFn: (body: { text: string }) =>
      need(api.POST("/api/runners/{id}/pocket/notes", { params: { path: { id } }, body })),
    onError: f.refused,
    onSuccess: (next) => {
      f.sent();
      f.form.reset({ text: "" });
      keep(next);
    },
  });
  return (
    <>
      {h.notes.slice(0, 5).map((n) => (
        <p key={n.id} className="border-b border-rule py-1 text-[14px]">
          <b>{n.mine ? n.by || t`You` : first}:</b> {n.text}
          <span className="text-ink-2">
            {" · "}
            {when(n.at)}
            {n.mine && (n.read ? t`, read` : t`, not read yet`)}
          </span>
        </p>
      ))}
      {h.way.devices.some((d) => !d.out) && (
        <form noValidate className="mt-2 grid gap-2" onSubmit={f.form.handleSubmit((v) => send.mutate(v))}>
          <Area label={t`Write ${first} a few words`} rows={2} maxLength={1000} {...f.text("text")} />
          <span className="flex items-center gap-3">
            <button type="submit" className="btn" disabled={send.isPending}>
              {t`Send`}
            </button>
            <SaveState error={send.error} saving={send.isPending} />
          </span>
        </form>
      )}
    </>
  );
}

function Devices({
  id,
  h,
  keep,
  again,
}: {
  id: string;
  h: Heard;
  keep: (h: Heard) => void;
  again: () => void;
}) {
  const [link, setLink] = useState<Schema["PocketLinkView"]>();
  const path = { params: { path: { id } } };
  const make = useMutation({
    mutationFn: () => need(api.POST("/api/runners/{id}/pocket/links", path)),
    onSuccess: (l) => {
      setLink(l);
      again();
    },
  });
  const end = useMutation({
    mutationFn: () => need(api.DELETE("/api/runners/{id}/pocket/links", path)),
    onSuccess: (way) => {
      setLink(undefined);
      keep({ ...h, way });
    },
  });
  const out = useMutation({
    mutationFn: (device: string) =>
      need(api.DELETE("/api/runners/{id}/pocket/devices/{device}", { params: { path: { id, device } } })),
    onSuccess: (way) => keep({ ...h, way }),
  });
  return (
    <div className="mt-3">
      {h.way.devices
        .filter((d) => !d.out)
        .map((d) => (
          <p
            key={d.id}
            className="flex items-center justify-between gap-3 border-b border-rule py-1 text-[14px]"
          >
            <span>
              {d.new && <b className="text-pine">{t`new `}</b>}
              {t`${d.name}, since ${dayMonth(d.at.slice(0, 10))}`}
              {d.clockOff && <b className="text-clay"> ▲ {d.clockOff}</b>}
            </span>
            <button type="button" className="btn-quiet" onClick={() => out.mutate(d.id)}>
              {t`Sign it out`}
            </button>
          </p>
        ))}
      {h.way.refused ? (
        <p className="mt-2 text-[14px]">{t`No link yet: ${h.way.refused}.`}</p>
      ) : (
        <p className="mt-2 flex flex-wrap gap-3">
          <button type="button" className="btn" disabled={make.isPending} onClick={() => make.mutate()}>
            {t`Make a link for the phone`}
          </button>
          {h.way.links.length > 0 && (
            <button type="button" className="btn-quiet" onClick={() => end.mutate()}>
              {t`End ${plural(h.way.links.length, { one: "the open link", other: "# open links" })}`}
            </button>
          )}
        </p>
      )}
      {link && <Shown link={link} />}
      <SaveState error={make.error ?? end.error ?? out.error} saving={false} />
    </div>
  );
}

/** The link, this once: as a square for the camera and as text. */
function Shown({ link }: { link: Schema["PocketLinkView"] }) {
  const address = `${location.origin}/pocket#${link.token}`;
  const [copied, setCopied] = useState(false);
  const [square, setSquare] = useState("");
  useEffect(() => {
    void import("uqr").then(({ renderSVG }) =>
      setSquare(`data:image/svg+xml;utf8,${encodeURIComponent(renderSVG(address, { border: 2 }))}`),
    );
  }, [address]);
  return (
    <div className="mt-3 border-l-4 border-ink bg-paper p-3">
      <p className="font-semibold">
        {t`Shown this once; it works until ${dayMonth(link.until.slice(0, 10))}, for three phones.`}
      </p>
      {square && (
        <img className="my-2 size-44" alt={t`The link as a square for the phone's camera`} src={square} />
      )}
      <p className="break-all text-[14px]">{address}</p>
      <button
        type="button"
        className="btn-quiet"
        onClick={() => void navigator.clipboard.writeText(address).then(() => setCopied(true))}
      >
        {copied ? t`copied` : t`copy it`}
      </button>
    </div>
  );
}
