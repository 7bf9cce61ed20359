import { t } from "@lingui/core/macro";
import type { Shot } from "./readings";
import type { Clip } from "./upload";

/** What can be taken away from the desk: the picture, the readings, the marks. */
export function Files({
  clip,
  frame,
  scaled,
  shot,
}: {
  clip: Clip;
  frame: number;
  scaled: boolean;
  shot: Shot;
}) {
  const picture = async () => {
    const b = await shot.current?.();
    if (!b) return;
    const a = document.createElement("a");
    a.href = URL.createObjectURL(b);
    a.download = `${clip.name.replace(/\.[^.]*$/, "")}-${frame + 1}.png`;
    a.click();
    URL.revokeObjectURL(a.href);
  };
  return (
    <p className="mt-3 flex flex-wrap gap-x-4">
      <button type="button" className="btn-quiet" onClick={() => void picture()}>
        {t`Picture with its marks`}
      </button>
      <a className="btn-quiet" href={`/api/clips/${clip.id}/files/csv`} download>
        {t`Readings as a table`}
      </a>
      {scaled ? (
        <a className="btn-quiet" href={`/api/clips/${clip.id}/files/trc`} download>
          {t`Marks as a marker file`}
        </a>
      ) : (
        <span className="text-[14px] text-ink-2">{t`with a scale: marks as a marker file`}</span>
      )}
    </p>
  );
}
