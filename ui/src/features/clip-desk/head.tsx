import { t } from "@lingui/core/macro";
import { Link } from "react-router";
import { Problem } from "../../api/client";
import { weekDay } from "../../parts/dates";
import { RunnerHead } from "../../parts/runnerhead";
import type { Clip } from "./upload";

/** Whose clip it is, whether its marks are saved, and the ways from here. */
export function Head({ clip, save }: { clip: Clip; save?: { error: Error | null; busy: boolean } }) {
  return (
    <>
      <RunnerHead
        id={clip.runnerId}
        name={clip.runnerName}
        here="clips"
        slim
        quiet
        page={
          <>
            {clip.name}, {weekDay(clip.on)}
            {save && (
              <span className="text-[15px] font-normal text-ink-2">
                {" "}
                · <span role="status">{save.error ? t`not saved` : save.busy ? t`saving…` : t`saved`}</span>
              </span>
            )}
          </>
        }
      >
        <Link className="btn-quiet" to={`/clips/${clip.id}/beside`}>
          {t`Beside another`}
        </Link>
        <Link className="btn-quiet" to={`/screenings/${clip.screeningId}/clips`}>
          {t`All clips`}
        </Link>
        <Link className="btn-quiet" to={`/screenings/${clip.screeningId}`}>
          {t`The screening`}
        </Link>
      </RunnerHead>
      {save?.error && !(save.error instanceof Problem && save.error.status === 409) && (
        <p role="alert" className="mb-2 text-clay">
          ▲ {save.error.message}
        </p>
      )}
    </>
  );
}
