// The timers of the checklist count down by this screen's own clock, from what the server
// says is left, and say when it is time.
"use strict";

// The page of the brew is held from here on, so that it can begin without the server.
(async () => {
  const path = location.pathname.replace(/setup$/, "brew");
  try {
    const answer = await fetch(path);
    if (answer.ok && !answer.redirected) holdPage(path, await answer.text());
  } catch { /* no server, no page */ }
})();

const ends = new Map(); // by the timer's id, on this screen's clock, ms

// take reads from the page which timers run.
function take() {
  ends.clear();
  document.querySelectorAll(".timer.runs").forEach((t) => ends.set(t.id, performance.now() + 1000 * Number(t.dataset.left)));
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
    const timer = document.getElementById(id), left = Math.ceil((end - performance.now()) / 1000);
    if (!timer) continue;
    timer.firstElementChild.textContent = left > 0 ? `${Math.floor(left / 60)}:${String(left % 60).padStart(2, "0")}` : "now";
    if (left > 0) continue;
    ends.delete(id);
    timer.classList.replace("runs", "over");
    document.getElementById("timer-said").textContent = `Time: ${timer.dataset.do}`;
    beep();
  }
}, 200);

document.addEventListener("htmx:after:swap", take);
take();
