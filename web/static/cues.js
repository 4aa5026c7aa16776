// The stages of a brew. The server defines each stage and the effect of a tap in it; these
// functions only compare times and move them.

/**
 * @typedef {object} Cue
 * @property {number} at start, seconds since the first water
 * @property {number} until end, seconds since the first water
 * @property {boolean} tapped only a tap starts it
 * @property {boolean} held the scale ends it, not the clock
 * @property {string} advance what a tap does: "end" the brew, "start" the next cue now, or "shift" the rest
 */

/**
 * Returns the index of the cue at a time.
 * @param {Cue[]} cues
 * @param {number} t
 * @param {boolean} scale a scale sends readings
 */
export function currentIndex(cues, t, scale) {
  const tolerance = 0.02; // s
  let current = 0;
  for (let i = 1; i < cues.length; i++) {
    if (cues[i].tapped) continue;
    if (cues[i].at > t + tolerance || (cues[current].held && scale)) break;
    current = i;
  }
  return current;
}

/**
 * Moves cues in time, from an index on.
 * @param {Cue[]} cues
 * @param {number} from
 * @param {number} by seconds
 * @returns {Cue[]}
 */
export const shift = (cues, from, by) => cues.map((c, i) => (i < from ? c : { ...c, at: c.at + by, until: c.until + by }));

/**
 * Applies a tap that the server does not have yet. Returns the changed cues, or null if the brew
 * is over.
 * @param {Cue[]} cues
 * @param {string} kind of the tap
 * @param {number} at when it was tapped, seconds since the first water
 * @param {number} later seconds by which "later" moves the rest
 * @param {boolean} scale a scale sends readings
 * @returns {Cue[]|null}
 */
export function afterTap(cues, kind, at, later, scale) {
  const i = currentIndex(cues, at, scale), next = cues[i + 1];
  let out = cues.map((c, n) => (n === i && next ? { ...c, held: false } : c));
  const action = kind === "finish" ? "end" : kind === "later" ? "later" : kind === "advance" ? cues[i].advance : "";
  if (action === "end") return null;
  if (action === "later") out = shift(out, i + 1, later);
  else if (action === "start") out[i + 1] = { ...next, at, tapped: false };
  else if (action === "shift") out = shift(out, i + 1, at - next.at);
  return out;
}
