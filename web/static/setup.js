// The timers of the checklist. They count down the remaining time sent by the server, on this
// screen's clock.
import { clock } from "./clock.js";
import { byId, findAll, setText } from "./dom.js";
import { storePage } from "./offline.js";

// The page of the brew is stored so that the brew can begin without the server.
(async () => {
  const path = location.pathname.replace(/setup$/, "brew");
  try {
    const answer = await fetch(path);
    if (answer.ok && !answer.redirected) await storePage(path, await answer.text());
  } catch { /* offline */ }
})();

// The scale is armed on the way to the Brew station, which also opens while the server is away.
document.addEventListener("submit", async (e) => {
  const form = /** @type {HTMLFormElement} */ (e.target);
  if (form.id !== "to-brew") return;
  e.preventDefault();
  const timeout = 2000; // ms
  try {
    await fetch(form.action, { method: "POST", headers: { "HX-Request": "true" }, signal: AbortSignal.timeout(timeout) });
  } catch { /* offline: the Brew screen offers the scale when the server is back */ }
  location.assign(location.pathname.replace(/setup$/, "brew"));
});

/** Ends of the running timers on this screen's clock, ms, by their IDs. @type {Map<string, number>} */
const ends = new Map();

function readTimers() {
  ends.clear();
  for (const t of findAll(".timer.runs")) ends.set(t.id, performance.now() + 1000 * Number(t.dataset.left));
}

function beep() {
  const audio = new AudioContext(), tone = audio.createOscillator(), gain = audio.createGain();
  gain.gain.value = 0.2;
  tone.frequency.value = 660;
  tone.connect(gain).connect(audio.destination);
  tone.start();
  tone.stop(audio.currentTime + 0.6);
}

setInterval(() => {
  for (const [id, end] of ends) {
    const timer = byId(id), left = Math.ceil((end - performance.now()) / 1000);
    if (!timer) continue;
    timer.firstElementChild.textContent = left > 0 ? clock(left) : "now";
    if (left > 0) continue;
    ends.delete(id);
    timer.classList.replace("runs", "over");
    setText("timer-said", `Time: ${timer.dataset.do}`);
    beep();
  }
}, 200);

document.addEventListener("htmx:after:swap", readTimers);
readTimers();
