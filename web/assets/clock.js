/**
 * Formats seconds as m:ss, rounded down. Negative values become 0:00.
 * @param {number} s
 */
export function clock(s) {
  const whole = Math.max(0, Math.floor(s));
  return `${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, "0")}`;
}

/**
 * Formats a duration in seconds, rounded up: "45 s" or "1:05".
 * @param {number} s
 */
export function span(s) {
  const whole = Math.max(0, Math.ceil(Math.abs(s)));
  return whole < 60 ? `${whole} s` : clock(whole);
}
