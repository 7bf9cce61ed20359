import { t } from "@lingui/core/macro";
import { lazy, Suspense, useState } from "react";
import type { Block } from "./change";

const AddForm = lazy(async () => ({ default: (await import("./addform")).AddForm }));

/** Puts a ladder from the shelf into the block, re-fitted to this runner. */
export function AddLadder({ b }: { b: Block }) {
  const [open, setOpen] = useState(false);
  if (b.ended) return null;
  if (!open)
    return (
      <button type="button" className="btn mt-3" onClick={() => setOpen(true)}>
        {t`Add a ladder`}
      </button>
    );
  return (
    <Suspense fallback={null}>
      <AddForm b={b} done={() => setOpen(false)} />
    </Suspense>
  );
}
