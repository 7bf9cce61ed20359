/** How far into a frame's time on show a seek goes, share of it: browsers take the frame
 * before for longer than it is where frames lie unevenly, and rounding is about a
 * millisecond. */
const into = 0.7;

/** A moment within a frame's time on show, so that a seek lands in it. */
export function seekTo(times: readonly number[], rate: number, frame: number): number {
  const t = times[frame];
  if (t === undefined) return (frame + into) / rate;
  const next = times[frame + 1];
  const before = times[frame - 1];
  const length = next !== undefined ? next - t : before !== undefined ? t - before : 0.02;
  return t + into * length;
}

/** The frame on show at a time. */
export function frameAt(times: readonly number[], rate: number, at: number): number {
  if (times.length === 0) return Math.max(0, Math.floor(at * rate + 1e-6));
  let low = 0;
  let high = times.length - 1;
  while (low < high) {
    const mid = (low + high + 1) >> 1;
    if ((times[mid] ?? 0) <= at + 1e-6) low = mid;
    else high = mid - 1;
  }
  return low;
}

/** How many frames that were on show are kept decoded, and how wide at most, px. */
const keptMost = 40;

const keptWidth = 1280;

/** Keeps a frame that is on show; the oldest goes first. */
export function keep(kept: Map<string, ImageBitmap>, key: string, from: HTMLVideoElement) {
  if (kept.has(key) || typeof createImageBitmap === "undefined") return;
  const resizeWidth = Math.min(keptWidth, from.videoWidth);
  createImageBitmap(from, { resizeWidth, resizeQuality: "medium" })
    .then((b) => {
      kept.set(key, b);
      const [oldest] = kept.keys();
      if (kept.size > keptMost && oldest) {
        kept.get(oldest)?.close();
        kept.delete(oldest);
      }
    })
    .catch(() => {}); // then it is decoded again
}
