// Counts down to the first water.

/**
 * Calls each for every second that is left, then done. Returns a function that stops it.
 * @param {number} seconds
 * @param {(left: number) => void} each
 * @param {() => void} done
 */
export function countDown(seconds, each, done) {
  /** @type {ReturnType<typeof setTimeout>} */
  let timer;
  const next = (/** @type {number} */ left) => {
    if (left <= 0) { done(); return; }
    each(left);
    timer = setTimeout(() => next(left - 1), 1000);
  };
  next(seconds);
  return () => clearTimeout(timer);
}
