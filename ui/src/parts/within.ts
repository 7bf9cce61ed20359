/** What comes of a promise, or nothing where it has not come by then. */
export const within = <T>(ms: number, of: Promise<T>): Promise<T | undefined> =>
  Promise.race([of, new Promise<undefined>((r) => setTimeout(r, ms))]);
