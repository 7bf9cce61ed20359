/** Tones and buzzes of a session; each can be off. */
let ctx: AudioContext | undefined;

/** Gets what makes sound ready while nothing else happens, so that the tap that begins a count is answered at once. */
export function prepare(): () => void {
  const make = () => {
    try {
      ctx ??= new AudioContext();
    } catch {
      // no sound here
    }
  };
  if (typeof requestIdleCallback === "undefined") {
    const id = setTimeout(make, 500);
    return () => clearTimeout(id);
  }
  const id = requestIdleCallback(make, { timeout: 3000 });
  return () => cancelIdleCallback(id);
}

/** Browsers let sound begin with a tap only: called from one. */
export function wake() {
  try {
    ctx ??= new AudioContext();
    void ctx.resume();
  } catch {
    // no sound here
  }
}

export function tone(on: boolean, hertz: number, seconds = 0.09) {
  if (!on || !ctx || ctx.state !== "running") return;
  const o = ctx.createOscillator();
  const g = ctx.createGain();
  o.frequency.value = hertz;
  g.gain.setValueAtTime(0.25, ctx.currentTime);
  g.gain.exponentialRampToValueAtTime(0.001, ctx.currentTime + seconds);
  o.connect(g).connect(ctx.destination);
  o.start();
  o.stop(ctx.currentTime + seconds);
}

export const buzz = (on: boolean, ms: number | number[]) => {
  if (on) navigator.vibrate?.(ms);
};

/** Whether this browser can speak by itself. */
export const canSpeak = () => typeof speechSynthesis !== "undefined";

/** Says a word or two; what is still being said gives way to it. */
export function say(on: boolean, words: string) {
  if (!on || !canSpeak()) return;
  speechSynthesis.cancel();
  const u = new SpeechSynthesisUtterance(words);
  u.lang = "en";
  u.rate = 1.15;
  speechSynthesis.speak(u);
}

/** Keeps the screen on until called off; where it can't, nothing happens. */
export function stayAwake(): () => void {
  let lock: WakeLockSentinel | undefined;
  let off = false;
  const take = () => {
    if (document.visibilityState !== "visible" || off) return;
    navigator.wakeLock?.request("screen").then(
      (l) => {
        lock = l;
        if (off) void l.release();
      },
      () => {},
    );
  };
  take();
  document.addEventListener("visibilitychange", take);
  return () => {
    off = true;
    document.removeEventListener("visibilitychange", take);
    void lock?.release();
  };
}
