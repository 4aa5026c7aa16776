// Number fields: parsing, formatting and stepping. The server interprets the values.

/**
 * Reads the text of a number field: 16.5, 2,5, 1 : 16.5, or a time such as 1:05 in seconds.
 * Returns NaN for other text.
 * @param {string} text
 */
export function read(text) {
  const bare = text.trim().replace("1 :", "").replace("−", "-").replace(",", ".");
  const time = bare.match(/^(\d+):(\d\d)$/);
  return time ? 60 * Number(time[1]) + Number(time[2]) : Number(bare);
}

/**
 * Writes a value in the notation of a text: a time or a decimal number.
 * @param {number} value
 * @param {string} like
 * @param {number} decimals
 */
export function write(value, like, decimals) {
  if (!/\d:\d\d$/.test(like.trim())) return String(Number(value.toFixed(decimals)));
  const s = Math.max(0, Math.round(value));
  return `${Math.floor(s / 60)}:${String(s % 60).padStart(2, "0")}`;
}

/**
 * Returns the number of decimals of numbers in text.
 * @param {string[]} texts
 */
export const decimalsOf = (...texts) => Math.max(...texts.map((s) => (s.split(/[.,]/)[1] || "").length));

/**
 * Types a value into a field.
 * @param {HTMLInputElement} input
 * @param {number} value
 * @param {number} decimals
 */
export function put(input, value, decimals) {
  input.value = write(value, input.value, decimals);
  input.dispatchEvent(new Event("change", { bubbles: true }));
}

/**
 * Adds steps to a number field, as if the result had been typed.
 * @param {HTMLInputElement} input
 * @param {number} steps
 * @param {boolean} fine
 */
export function step(input, steps, fine) {
  const size = Number(fine ? input.dataset.fine : input.dataset.step), now = read(input.value);
  if (!size || Number.isNaN(now)) return;
  put(input, now + steps * size, decimalsOf(input.dataset.step, input.dataset.fine, input.value));
}
