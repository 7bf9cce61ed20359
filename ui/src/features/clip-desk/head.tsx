import { Link } from "react-router";
import { Problem } from "../../api/client";
import { weekDay } from "../../parts/dates";
import type { Clip } from "./upload";

/** Whose clip it is, whether its marks are saved, and the ways from here. */
export function Head({ clip, save }: { clip: Clip; save?: { error: Error | null; busy: boolean } }) {
  return (
    <>
      <div className="mb-3 flex flex-wrap items-end gap-x-5 gap-y-2">
        <h1>
          <Link to={`/runners/${clip.runnerId}`} className="hover:underline">
            {clip.runnerName}
          </Link>
        </h1>
        <p className="text-ink-2">
          {clip.name}, {weekDay(clip.on)}
          {save && (
            <>
              {" "}
              · <span role="status">{save.error ? "not saved" : save.busy ? "saving…" : "saved"}</span>
            </>
          )}
        </p>
        <Link className="btn-quiet ml-auto" to={`/clips/${clip.id}/beside`}>
          beside another
        </Link>
        <Link className="btn-quiet" to={`/screenings/${clip.screeningId}/clips`}>
          all clips
        </Link>
        <Link className="btn-quiet" to={`/screenings/${clip.screeningId}`}>
          the screening
        </Link>
      </div>
      {save?.error && (
        <p role="alert" className="mb-2 text-clay">
          ▲{" "}
          {save.error instanceof Problem && save.error.status === 409
            ? "Somebody else marked this clip meanwhile. Load the page again; your last marks are not saved."
            : save.error.message}
        </p>
      )}
    </>
  );
}
