// Sounds of the Brew station: a short tone in the last seconds of a wait and a longer one when
// something new begins, or the browser's voice.
import { byId } from "./dom.js";

const modes = "speechSynthesis" in window ? ["tones", "voice", "off"] : ["tones", "off"];
/** @type {Record<string, string>} */
const labels = { tones: "Tones ", voice: "Voice ", off: "Sound off " };

/** @type {AudioContext} */
let context;
let mode = "tones", ticked = "", spoken = "";

try { // the person's sound, or else the one of this device
  const stored = document.body.dataset.sound || localStorage.getItem("sound");
  if (modes.includes(stored)) mode = stored;
} catch { /* storage is unavailable */ }

/**
 * @param {number} hertz
 * @param {number} seconds
 */
function play(hertz, seconds) {
  if (mode === "off" || !context) return;
  const tone = context.createOscillator(), gain = context.createGain(), at = context.currentTime;
  tone.frequency.value = hertz;
  gain.gain.setValueAtTime(0.25, at);
  gain.gain.exponentialRampToValueAtTime(0.001, at + seconds);
  tone.connect(gain).connect(context.destination);
  tone.start(at);
  tone.stop(at + seconds);
}

/** Enables sound. Browsers allow that only in response to a touch or a key. */
export function wake() {
  context ??= new AudioContext();
  if (context.state === "suspended") context.resume();
}

/**
 * Plays the short tone once for each key.
 * @param {string} key
 */
export function tick(key) {
  if (key === ticked) return;
  ticked = key;
  play(660, 0.09);
}

/**
 * Speaks a text once for each key.
 * @param {string} text
 * @param {string} key
 */
export function speak(text, key) {
  if (mode !== "voice" || key === spoken) return;
  spoken = key;
  const words = new SpeechSynthesisUtterance(text);
  words.lang = "en";
  speechSynthesis.cancel();
  speechSynthesis.speak(words);
}

/**
 * Announces a new stage.
 * @param {string} text
 */
export function announce(text) {
  play(990, 0.45);
  speak(text, text);
}

/** Switches to the next mode and remembers it: for the person at this screen, and on this device. */
export function nextMode() {
  mode = modes[(modes.indexOf(mode) + 1) % modes.length];
  try { localStorage.setItem("sound", mode); } catch { /* storage is unavailable */ }
  if (document.body.dataset.by) {
    fetch("/people/sound", { method: "POST", body: new URLSearchParams({ sound: mode }) }).catch(() => { /* kept on this device */ });
  }
  label();
}

/** Shows the mode on its button. */
export function label() {
  const button = byId("mute");
  if (button) button.firstChild.textContent = labels[mode];
}
