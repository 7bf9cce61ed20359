import { zodResolver } from "@hookform/resolvers/zod";
import { t } from "@lingui/core/macro";
import { useCallback, useEffect, useRef, useState } from "react";
import {
  type Control,
  type DefaultValues,
  type FieldPath,
  type FieldValues,
  type Resolver,
  useController,
  useForm,
} from "react-hook-form";
import * as z from "zod/mini";
import { freshKey, Problem } from "../api/client";
import { draftLike, dropDraft, putDraft } from "./drafts";
import { Choice, type Option, Select } from "./field";
import { isUnit, unit as named } from "./measures";
import { readNumber } from "./numbers";
import { Tick, Weekdays, withOrWithout } from "./tick";

// The content policy forbids making code at run time; the checks do without.
z.config({ jitless: true });

/** A number as it is typed, in a unit; empty is not said. */
export const typedNumber = (unit: string, example: string) =>
  z.pipe(
    z.string(),
    z.transform((text, ctx) => {
      const { value, error } = readNumber(text, unit, example);
      if (error) ctx.issues.push({ code: "custom", message: error, input: text });
      return value;
    }),
  );

/** A number that has to be said. */
export const neededNumber = (unit: string, example: string) =>
  z.pipe(
    typedNumber(unit, example),
    z.transform((n, ctx) => {
      if (n === undefined)
        ctx.issues.push({
          code: "custom",
          message: t`A number in ${isUnit(unit) ? named(unit) : unit} is expected, like ${example}`,
          input: n,
        });
      return n ?? 0;
    }),
  );

/** A text that has to be said; without it the sentence stands beside the field. */
export const needed = (sentence: string) => z.string().check(z.trim(), z.minLength(1, sentence));

/** One of some words, or nothing chosen. */
export const chosen = <T extends string>(...of: T[]) =>
  z.pipe(
    z.string(),
    z.transform((v) => of.find((x) => x === v)),
  );

/**
 * A form whose fields are checked as they are typed. With a draft's name, what is
 * typed is kept on this device until done() is called; a kept draft that doesn't have
 * the form's shape any more is left out. The key goes with it, so that a form sent
 * twice is stored once.
 */
export function useChecked<In extends FieldValues, Out extends FieldValues>(
  rules: z.ZodMiniType<Out, In>,
  start: In,
  draft?: string,
) {
  const [{ key, first }, setKept] = useState(() => {
    const kept = draft ? draftLike(draft, start) : undefined;
    return kept ? { key: kept.key, first: kept.value } : { key: freshKey(), first: start };
  });
  const form = useForm<In, unknown, Out>({
    defaultValues: first as DefaultValues<In>,
    resolver: zodResolver(rules) as Resolver<In, unknown, Out>,
    mode: "onChange",
  });
  const latest = useRef(key);
  latest.current = key;
  const { watch, setError } = form;
  useEffect(() => {
    if (!draft) return;
    const { unsubscribe } = watch((value) => putDraft(draft, { key: latest.current, value }));
    return unsubscribe;
  }, [draft, watch]);
  /** Puts the server's sentences beside the fields they are about. */
  const refused = useCallback(
    (e: Error) => {
      if (!(e instanceof Problem) || e.status === 401) return; // it may yet be sent as it is
      setKept((k) => ({ ...k, key: freshKey() }));
      for (const [at, message] of Object.entries(e.fields))
        setError(at.replace(/\[(\d+)\]/g, ".$1") as FieldPath<In>, { type: "server", message });
    },
    [setError],
  );
  return {
    form,
    key,
    refused,
    /** What is wrong with a field. */
    bad: (name: FieldPath<In>) => form.getFieldState(name, form.formState).error?.message,
    /** A text field's properties. */
    text: (name: FieldPath<In>) => ({
      ...form.register(name),
      error: form.getFieldState(name, form.formState).error?.message,
    }),
    /** It is stored: the draft goes. */
    done: () => {
      if (draft) dropDraft(draft);
    },
    /** It is stored and the form stays open: what comes next is a request of its own. */
    sent: () => {
      setKept((k) => ({ ...k, key: freshKey() }));
      if (draft) dropDraft(draft);
    },
  };
}

type Bound<In extends FieldValues, Out> = { control: Control<In, unknown, Out>; name: FieldPath<In> };

/** A row of choices bound to a field. */
export function Chosen<In extends FieldValues, Out, T extends string | number>({
  control,
  name,
  ...rest
}: Bound<In, Out> & { label: string; options: Option<T>[]; compact?: boolean }) {
  const { field, fieldState } = useController({ control, name });
  return (
    <Choice<T>
      {...rest}
      value={(field.value ?? undefined) as T | undefined}
      onChange={field.onChange}
      error={fieldState.error?.message}
    />
  );
}

/** A list to choose from, bound to a field. */
export function Listed<In extends FieldValues, Out>({
  control,
  name,
  ...rest
}: Bound<In, Out> & { label: string; options: [string, string][] }) {
  const { field } = useController({ control, name });
  return <Select {...rest} value={field.value ?? ""} onChange={field.onChange} />;
}

/** Ticks out of a list, bound to a field. */
export function Ticked<In extends FieldValues, Out>({
  control,
  name,
  label,
  options,
  columns,
}: Bound<In, Out> & { label: string; options: [string, string][]; columns?: boolean }) {
  const { field } = useController({ control, name });
  const value: string[] = field.value ?? [];
  return (
    <fieldset>
      <legend className="mb-1 font-semibold">{label}</legend>
      <div className={columns ? "grid gap-x-4 sm:grid-cols-2" : "flex flex-wrap gap-x-4 gap-y-1"}>
        {options.map(([id, text]) => (
          <Tick
            key={id}
            label={text}
            on={value.includes(id)}
            onChange={(on) => field.onChange(withOrWithout(value, id, on))}
          />
        ))}
      </div>
    </fieldset>
  );
}

/** A box to tick, bound to a field. */
export function Ticking<In extends FieldValues, Out>({
  control,
  name,
  label,
}: Bound<In, Out> & { label: string }) {
  const { field } = useController({ control, name });
  return <Tick label={label} on={!!field.value} onChange={field.onChange} />;
}

/** Days of the week, bound to a field. */
export function WeekdaysOf<In extends FieldValues, Out>({
  control,
  name,
  label,
}: Bound<In, Out> & { label: string }) {
  const { field, fieldState } = useController({ control, name });
  return (
    <Weekdays label={label} days={field.value} onChange={field.onChange} bad={fieldState.error?.message} />
  );
}
