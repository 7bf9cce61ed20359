import { plural, t } from "@lingui/core/macro";
import { useMutation } from "@tanstack/react-query";
import { type ReactNode, useEffect, useState } from "react";
import * as z from "zod/mini";
import { api, need, type Schema } from "../../api/client";
import { Field } from "../../parts/field";
import { useChecked } from "../../parts/form";
import { Title } from "../../parts/marks";
import { DoOrLeave } from "../../parts/orleave";
import { CopyBox } from "./once";
import { itself, type Own, useOwnChange } from "./useown";

type What = "begin" | "codes" | "end";

/** A second device at sign-in: set up, recovery codes, taken off. */
export function Second({ own }: { own: Own }) {
  const [doing, setDoing] = useState<What>();
  const [setup, setSetup] = useState<Schema["Setup"]>();
  const [codes, setCodes] = useState<string[]>();
  return (
    <section aria-label={t`Second device`}>
      <Title>{t`Second device`}</Title>
      <p className="mb-3">
        {own.second
          ? t`At sign-in a code of your second device is asked for as well as your password.`
          : t`A password can be seen or guessed. With a second device, a code from your phone is asked for as well.`}
        {own.second && (
          <span className={own.codes < 3 ? "block text-clay" : "block text-ink-2"}>
            {plural(own.codes, {
              0: "▲ No recovery code is left: make new ones.",
              one: "One recovery code is left; make new ones.",
              other: "# recovery codes are left.",
            })}
          </span>
        )}
      </p>
      {codes && <Codes codes={codes} done={() => setCodes(undefined)} />}
      {setup && !own.second && (
        <FirstCode
          setup={setup}
          stay={() => setSetup(undefined)}
          done={(list) => {
            setSetup(undefined);
            setCodes(list);
          }}
        />
      )}
      {doing && (
        <Again
          what={doing}
          email={own.email}
          stay={() => setDoing(undefined)}
          begun={(s) => {
            setDoing(undefined);
            setSetup(s);
          }}
          made={(list) => {
            setDoing(undefined);
            setCodes(list);
          }}
        />
      )}
      {!doing && !setup && !codes && (
        <div className="flex flex-wrap gap-3">
          {own.second ? (
            <>
              <button type="button" className="btn" onClick={() => setDoing("codes")}>
                {t`New recovery codes`}
              </button>
              <button type="button" className="btn-quiet" onClick={() => setDoing("end")}>
                {t`Take it off`}
              </button>
            </>
          ) : (
            <button type="button" className="btn" onClick={() => setDoing("begin")}>
              {t`Set up a second device`}
            </button>
          )}
        </div>
      )}
    </section>
  );
}

const again = z.object({ old: z.string() });

/** The password once more, before anything of it changes. */
function Again({
  what,
  email,
  stay,
  begun,
  made,
}: {
  what: What;
  email: string;
  stay: () => void;
  begun: (s: Schema["Setup"]) => void;
  made: (codes: string[]) => void;
}) {
  const f = useChecked(again, { old: "" });
  const begin = useMutation({
    mutationFn: (body: z.output<typeof again>) => need(api.POST("/api/me/second", { body })),
    retry: false,
    onError: f.refused,
    onSuccess: begun,
  });
  const fresh = useOwnChange(
    (body: z.output<typeof again>) => need(api.POST("/api/me/second/codes", { body })),
    (s) => s.own,
    (s) => made(s.codes),
    f.refused,
  );
  const end = useOwnChange(
    (body: z.output<typeof again>) => need(api.POST("/api/me/second/end", { body })),
    itself,
    stay,
    f.refused,
  );
  const go = { begin, codes: fresh, end }[what];
  const says: Record<What, ReactNode> = {
    begin: t`Go on`,
    codes: t`Make new codes`,
    end: t`Take the second device off`,
  };
  return (
    <form noValidate className="grid gap-3" onSubmit={f.form.handleSubmit((v) => go.mutate(v))}>
      {what === "end" && <p>{t`From then on your password alone lets you in.`}</p>}
      {what === "codes" && <p>{t`The codes you have now don’t count any more then.`}</p>}
      <input type="text" hidden readOnly autoComplete="username" value={email} />
      <Field
        label={t`Your password`}
        type="password"
        autoComplete="current-password"
        autoFocus
        {...f.text("old")}
      />
      <DoOrLeave busy={go.isPending} error={go.error} leave={stay}>
        {says[what]}
      </DoOrLeave>
    </form>
  );
}

const first = z.object({ code: z.string() });

/** The secret, as a square and as text, and the first code that proves it arrived. */
function FirstCode({
  setup,
  stay,
  done,
}: {
  setup: Schema["Setup"];
  stay: () => void;
  done: (codes: string[]) => void;
}) {
  const f = useChecked(first, { code: "" });
  const [square, setSquare] = useState("");
  useEffect(() => {
    void import("uqr").then(({ renderSVG }) =>
      setSquare(`data:image/svg+xml;utf8,${encodeURIComponent(renderSVG(setup.uri, { border: 2 }))}`),
    );
  }, [setup.uri]);
  const go = useOwnChange(
    (body: z.output<typeof first>) => need(api.PUT("/api/me/second", { body })),
    (s) => s.own,
    (s) => done(s.codes),
    f.refused,
  );
  return (
    <form noValidate className="grid gap-3" onSubmit={f.form.handleSubmit((v) => go.mutate(v))}>
      <ol className="grid list-decimal gap-3 pl-5">
        <li>
          {t`Open a program for one-time codes on your phone and let it read this square.`}
          {square && (
            <img
              className="my-2 size-44"
              alt={t`The secret as a square for the phone's camera`}
              src={square}
            />
          )}
          <span className="block text-[14px] text-ink-2">
            {t`Or type it there:`}{" "}
            <code className="text-ink">{setup.secret.match(/.{1,4}/g)?.join(" ")}</code>
          </span>
        </li>
        <li>
          <Field
            label={t`Type the code it shows`}
            inputMode="numeric"
            autoComplete="one-time-code"
            autoFocus
            maxLength={12}
            {...f.text("code")}
          />
        </li>
      </ol>
      <DoOrLeave main busy={go.isPending} error={go.error} leave={stay}>
        {t`Ask for it from now on`}
      </DoOrLeave>
    </form>
  );
}

/** Recovery codes on the one occasion they are shown. */
function Codes({ codes, done }: { codes: string[]; done: () => void }) {
  return (
    <section aria-label={t`Recovery codes`} className="border-l-4 border-ink bg-paper p-4">
      <p className="mb-2">
        {t`Keep these away from your phone: on paper, or where your passwords are. Each lets you in once in place of a code. They are shown this once.`}
      </p>
      <CopyBox label={t`Recovery codes`} value={codes.join("\n")} rows={5} columns />
      <button type="button" className="btn mt-3" onClick={done}>
        {t`I have them`}
      </button>
    </section>
  );
}
