import { t } from "@lingui/core/macro";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useWatch } from "react-hook-form";
import * as z from "zod/mini";
import { api, need, type Schema } from "../../api/client";
import { useMe } from "../../api/hooks";
import { moment } from "../../parts/dates";
import { Area } from "../../parts/field";
import { Chosen, Ticked, useChecked } from "../../parts/form";
import { Title } from "../../parts/marks";
import { Empty, Failed, Loading, SaveState } from "../../parts/states";
import { usePageTitle } from "../../parts/title";
import { PracticeHead } from "./head";

type List = Schema["OwnQuestions"];
type Input = Schema["OwnQuestionInput"];
type Level = Input["level"];

const questionsKey = ["own-questions"];

const levels: Record<Level, string> = {
  emergency: t`Care now: everything is closed`,
  refer: t`A clinician looks first`,
  limit: t`Some work is left out`,
  note: t`A note, nothing is closed`,
};

/** What a phrase of the flag table closes, in words. */
const closed: Record<string, string> = {
  running: t`running`,
  hop: t`hopping and jumping`,
  barefoot: t`everything barefoot`,
  "min-shoe-run": t`running in minimal shoes`,
  "barefoot-run": t`running barefoot`,
  "all weight-bearing exercise": t`all exercise standing`,
  "one-leg and loaded work": t`work on one leg or with weight`,
  "heels-up and standing foot work": t`heels-up and standing foot work`,
  "calf ladders": t`calf work`,
  "sole ladders": t`foot work`,
  "drops below level": t`heels below the step`,
  "bare-foot floor work": t`floor work without shoes`,
  "RM and breath-held work": t`heavy work with the breath held`,
  "eyes closed and unsupported": t`balance with closed eyes or without support`,
  "hard release": t`hard pressure with ball or roller`,
  cooling: t`cooling`,
};

/** Safety questions of the practice's own: what stands, and one more. */
export function OwnQuestionsView() {
  usePageTitle(t`Safety questions`, t`Practice`);
  const me = useMe();
  const list = useQuery({
    queryKey: questionsKey,
    queryFn: () => need(api.GET("/api/practice/questions")),
  });
  if (list.isPending) return <Loading what={t`the questions`} />;
  if (list.error) return <Failed error={list.error} retry={() => void list.refetch()} />;
  const { items } = list.data;
  const owner = me.data?.role === "owner";
  return (
    <>
      <PracticeHead />
      <h1>{t`Safety questions`}</h1>
      <p className="mt-1 mb-4 max-w-3xl text-ink-2">
        {t`The program’s own safety questions are always asked. Here stand those that this practice asks beside them: at every screening from now on, and on the phone whenever something new hurts. Plans that run go on until the question is next asked.`}
        {!owner && t` Only the owner adds one.`}
      </p>
      <div className="grid max-w-5xl items-start gap-x-10 gap-y-8 lg:grid-cols-2">
        <section aria-label={t`Asked in this practice`}>
          <Title>{t`Asked in this practice`}</Title>
          {items.length === 0 ? (
            <Empty
              title={t`None yet`}
            >{t`Add one where your runners meet something that the program doesn’t ask about.`}</Empty>
          ) : (
            <ul>
              {items.map((q) => (
                <Row key={q.id} q={q} />
              ))}
            </ul>
          )}
        </section>
        {owner && <Add key={items.length} closes={list.data.closes} />}
      </div>
    </>
  );
}

/** What a yes to a question means. */
function Means({ q }: { q: Omit<Input, "text"> }) {
  const what = [...(q.closes ?? []).map((c) => closed[c] ?? c), ...(q.progress ? [t`every step up`] : [])];
  const asks = [q.side && t`asks which side`, q.minor && t`under 18 only`].filter(Boolean);
  return (
    <p className={q.level === "emergency" ? "text-clay" : ""}>
      {q.level === "emergency" && <span aria-hidden="true">▲ </span>}
      {levels[q.level]}
      {what.length > 0 && t`; closes ${what.join(", ")}`}
      {asks.length > 0 && `; ${asks.join(", ")}`}
    </p>
  );
}

function Row({ q }: { q: List["items"][number] }) {
  return (
    <li className="border-b border-rule py-3">
      <p className="font-semibold">{q.text}</p>
      <Means q={q} />
      <p className="text-[14px] text-ink-2">{t`${q.by}, ${moment(q.at)}`}</p>
    </li>
  );
}

const rules = z.object({
  text: z.string().check(z.trim(), z.minLength(8, t`Ask it in at least eight characters`)),
  level: z.enum(["emergency", "refer", "limit", "note"]),
  closes: z.array(z.string()),
  more: z.array(z.string()),
});

function Add({ closes }: { closes: string[] }) {
  const qc = useQueryClient();
  const [sure, setSure] = useState<Input>();
  const f = useChecked(rules, {
    text: "",
    level: "refer" as Level,
    closes: [] as string[],
    more: [] as string[],
  });
  const level = useWatch({ control: f.form.control, name: "level" });
  const chooses = level === "refer" || level === "limit";
  const add = useMutation({
    mutationFn: (body: Input) => need(api.POST("/api/practice/questions", { body })),
    onError: (e) => {
      setSure(undefined);
      f.refused(e);
    },
    onSuccess: (next) => qc.setQueryData(questionsKey, next),
  });
  const show = f.form.handleSubmit((v) => {
    const progress = chooses && v.more.includes("progress");
    if (chooses && v.closes.length === 0 && !progress) {
      f.form.setError("closes", { message: t`Choose what a yes closes` });
      return;
    }
    setSure({
      text: v.text,
      level: v.level,
      closes: chooses ? v.closes : [],
      progress,
      side: v.more.includes("side"),
      minor: v.more.includes("minor"),
    });
  });
  if (sure)
    return (
      <section aria-label={t`Add this question`} className="border-t-3 border-ink bg-paper p-4">
        <h2>{t`Add this question?`}</h2>
        <p className="mt-2 font-semibold">“{sure.text}”</p>
        <Means q={sure} />
        <p className="mt-2">
          {t`It stays for good: nobody changes it or takes it away, so that no screening ever asks less than the one before.`}
        </p>
        <div className="mt-3 flex flex-wrap gap-3">
          <button
            type="button"
            className="btn btn-main"
            disabled={add.isPending}
            onClick={() => add.mutate(sure)}
          >
            {t`Add for good`}
          </button>
          <button type="button" className="btn" onClick={() => setSure(undefined)}>
            {t`Back`}
          </button>
        </div>
      </section>
    );
  return (
    <section aria-label={t`One more question`}>
      <Title>{t`One more question`}</Title>
      <form noValidate className="grid gap-4" onSubmit={show}>
        <Area
          label={t`What is asked`}
          hint={t`so that yes is the careful answer: “Stung by a weever fish within two weeks”`}
          rows={3}
          maxLength={300}
          {...f.text("text")}
        />
        <Chosen
          label={t`A yes means`}
          options={(Object.keys(levels) as Level[]).map((value) => ({ value, label: levels[value] }))}
          control={f.form.control}
          name="level"
        />
        {chooses && (
          <>
            <Ticked
              columns
              label={t`A yes closes`}
              options={closes.map((c) => [c, closed[c] ?? c] as [string, string])}
              control={f.form.control}
              name="closes"
            />
            {f.bad("closes") && <p className="text-clay">▲ {f.bad("closes")}</p>}
          </>
        )}
        <Ticked
          label={t`Besides`}
          options={
            [
              ...(chooses ? [["progress", t`nothing steps up while it stands`]] : []),
              ["side", t`ask which side`],
              ["minor", t`ask under 18 only`],
            ] as [string, string][]
          }
          control={f.form.control}
          name="more"
        />
        <div className="flex items-center gap-4">
          <button type="submit" className="btn btn-main">
            {t`Look at it once more`}
          </button>
          <SaveState error={add.error} saving={false} />
        </div>
      </form>
    </section>
  );
}
