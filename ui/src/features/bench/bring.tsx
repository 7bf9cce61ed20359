import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, need, Problem, type Schema } from "../../api/client";

type Ask = { file: File; again?: boolean };
type Came = { id: string; name: string; clips: number; pictures: number; left: string[] };

/** A pack is a zip: it goes as it is, since clips in it may be large. */
async function unpack({ file, again }: Ask): Promise<Came> {
  const got = (await need(
    api.POST("/api/packs", {
      params: { query: again ? { again } : {} },
      body: file as unknown as string,
      bodySerializer: (b) => b as unknown as BodyInit,
      headers: { "Content-Type": "application/octet-stream" },
    }),
  )) as Schema["Unpacked"];
  return {
    id: got.runner.id,
    name: got.runner.name,
    clips: got.clips,
    pictures: got.pictures,
    left: got.left,
  };
}

async function bundle({ file, again }: Ask): Promise<Came> {
  let body: Schema["Bundle"];
  try {
    body = JSON.parse(await file.text()) as Schema["Bundle"];
  } catch {
    throw new Error(`${file.name} is not a runner's bundle: it is not JSON. Nothing was changed.`);
  }
  const r = await need(api.POST("/api/bundles", { params: { query: again ? { again } : {} }, body }));
  return { id: r.id, name: r.name, clips: 0, pictures: 0, left: [] };
}

/** Takes in a runner's bundle: all of it or nothing. */
export function Bring() {
  const go = useNavigate();
  const qc = useQueryClient();
  const [came, setCame] = useState<Came>();
  const bring = useMutation({
    mutationFn: (a: Ask) => (/\.zip$/i.test(a.file.name) ? unpack(a) : bundle(a)),
    onMutate: () => setCame(undefined),
    onSuccess: (r) => {
      void qc.invalidateQueries({ queryKey: ["bench"] });
      if (r.left.length === 0) go(`/runners/${r.id}`);
      else setCame(r);
    },
  });
  const why =
    bring.error instanceof Problem
      ? (Object.entries(bring.error.fields).map(([k, v]) => (k ? `${k}: ${v}` : v))[0] ?? bring.error.message)
      : bring.error?.message;
  const twice = why?.includes("this very bundle");
  return (
    <>
      <label className="btn has-focus-visible:outline-3 has-focus-visible:outline-offset-2 has-focus-visible:outline-ink">
        {t`Import a runner`}
        <input
          type="file"
          accept="application/json,.json,.zip"
          className="sr-only"
          aria-label={t`Import a runner from a bundle file`}
          onChange={(e) => {
            const file = e.target.files?.[0];
            e.target.value = "";
            if (file) bring.mutate({ file });
          }}
        />
      </label>
      {bring.isPending && (
        <p role="status" className="w-full text-ink-2">
          {t`Bringing the runner in…`}
        </p>
      )}
      {why && (
        <p role="alert" className="w-full text-clay">
          <span aria-hidden="true">▲ </span>
          {why}
          {twice && bring.variables && (
            <button
              type="button"
              className="btn-quiet ml-3"
              onClick={() => bring.mutate({ file: bring.variables.file, again: true })}
            >
              {t`Bring it in again`}
            </button>
          )}
        </p>
      )}
      {came && (
        <div role="status" className="w-full">
          <p>
            <Trans>
              <Link className="btn-quiet" to={`/runners/${came.id}`}>
                {came.name}
              </Link>{" "}
              is here, with {came.clips} clips and {came.pictures} pictures. Not brought in:
            </Trans>
          </p>
          <ul className="list-disc pl-5 text-ink-2">
            {came.left.map((l) => (
              <li key={l}>{l}</li>
            ))}
          </ul>
        </div>
      )}
    </>
  );
}
