import { t } from "@lingui/core/macro";
import { useMutation, useQuery } from "@tanstack/react-query";
import { Popover } from "radix-ui";
import { useState } from "react";
import { api, need, type Schema } from "../../api/client";
import { Field } from "../../parts/field";
import { readNumber } from "../../parts/numbers";
import { SaveState } from "../../parts/states";

/** Measure the same thing twice, the second time without seeing the first. */
export function EyePair({ test, runner }: { test: Schema["ScreeningTest"]; runner: string }) {
  const [open, setOpen] = useState(false);
  const [first, setFirst] = useState("");
  const [hidden, setHidden] = useState(false);
  const [second, setSecond] = useState("");
  const eye = useQuery({ queryKey: ["eye"], queryFn: () => need(api.GET("/api/eye")), enabled: open });
  const state = eye.data?.items.find((x) => x.test === test.id);
  const a = readNumber(first, test.unit, "9.5");
  const b = readNumber(second, test.unit, "9.5");
  const save = useMutation({
    mutationFn: () =>
      need(
        api.POST("/api/runners/{id}/eye-pairs", {
          params: { path: { id: runner } },
          body: { test: test.id, first: a.value ?? 0, second: b.value ?? 0 },
        }),
      ),
    onSuccess: () => {
      setFirst("");
      setSecond("");
      setHidden(false);
      void eye.refetch();
    },
  });
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger className="btn-quiet text-[13px]" aria-label={t`your eye: ${test.name}`}>
        {t`Your eye`}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          className="panel w-[min(24rem,92vw)] text-[14px]"
          sideOffset={6}
          collisionPadding={12}
        >
          <h3>{t`Your own typical error`}</h3>
          <p className="mt-1 text-ink-2">
            {t`Measure one side, hide it, set up again and measure once more. After ten pairs on three runners your own typical error replaces the usual ${test.noise?.sem ?? ""} ${test.unit} in your verdicts.`}
          </p>
          <form
            className="mt-2 grid gap-2"
            onSubmit={(e) => {
              e.preventDefault();
              if (!hidden) setHidden(a.value !== undefined);
              else if (b.value !== undefined) save.mutate();
            }}
          >
            {hidden ? (
              <Field
                label={t`Second, ${test.unit}`}
                inputMode="decimal"
                value={second}
                error={b.error}
                onChange={(e) => setSecond(e.target.value)}
                autoFocus
              />
            ) : (
              <Field
                label={t`First, ${test.unit}`}
                inputMode="decimal"
                value={first}
                error={a.error}
                onChange={(e) => setFirst(e.target.value)}
              />
            )}
            <button
              type="submit"
              className="btn btn-main"
              disabled={save.isPending || (hidden ? b.value === undefined : a.value === undefined)}
            >
              {hidden ? t`Keep the pair` : t`Hide it and measure again`}
            </button>
          </form>
          <SaveState error={save.error} saving={false} />
          <p className="mt-2">
            {state ? t`${state.pairs} of 10 pairs on ${state.runners} of 3 runners` : ""}
            {state?.sem !== undefined && t`; your own noise ${state.sem.toFixed(2)} ${test.unit}, in use`}
          </p>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
