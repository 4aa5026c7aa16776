// Boards that keep time for several things: a rush and a stage. The server says what is due when;
// this script counts down, moves the line of the present and sends taps and keys. A tap that cannot be sent waits on
// this device.
import { clock, span } from "./clock.js";
import { byId, find, findAll, isTyping, moveNowLines, target } from "./dom.js";
import { browserQueue, newKey } from "./queue.js";
import * as sound from "./sound.js";

let announced = ""; // the action that was announced last
let zero = Date.now(); // when the board's clock began, on the wall clock

function sync() {
  const board = byId("board");
  if (!board) return;
  zero = Date.now() - Number(board.dataset.elapsed) * 1000;
  sound.label();
  tick();
}

function tick() {
  const board = byId("board");
  if (!board || !("runs" in board.dataset)) return;
  const t = (Date.now() - zero) / 1000;
  for (const c of findAll("[data-clock]", board)) c.textContent = clock(t);
  for (const c of findAll("[data-until]", board)) {
    const busy = "busy" in c.dataset, left = Number(c.dataset.until) + (busy ? Number(c.dataset.lasts) : 0) - t;
    c.textContent = left > 0 ? span(left) : busy ? "in?" : "now";
    c.classList.toggle("soon", left <= Number(board.dataset.soonLeft));
    if (c.dataset.say && !busy) cue(c.dataset, left, Number(board.dataset.soonLeft));
  }
  for (const c of findAll("[data-due]", board)) {
    const due = Number(c.dataset.due);
    c.textContent = due < 0 ? "" : due - t > 0 ? span(due - t) : "now";
    c.classList.toggle("soon", due >= 0 && due - t <= Number(board.dataset.soonDue));
  }
  moveNowLines(t, board);
}

/**
 * Sounds before an action, and when it is due.
 * @param {DOMStringMap} action
 * @param {number} left seconds
 * @param {number} soon seconds that are counted down
 */
function cue({ say, until }, left, soon) {
  const key = `${say}/${until}`;
  if (left > 0 && left <= soon) sound.tick(`${key}/${Math.ceil(left)}`);
  if (left > 0 || key === announced) return;
  announced = key;
  sound.announce(say);
}

document.addEventListener("submit", (e) => {
  const form = /** @type {HTMLFormElement} */ (target(e));
  if (!form.closest("#board") || /\/(end|resume|more)$/.test(form.action)) return;
  e.preventDefault();
  if (!form.getAttribute("action")) return;
  for (const b of /** @type {HTMLButtonElement[]} */ (findAll("button", form))) b.disabled = true; // until the changed board arrives
  const body = Object.fromEntries(/** @type {any} */ (new FormData(form)));
  const says = find("strong, .do", form)?.textContent.trim() ?? "the tap";
  queue.add({ key: newKey(), url: new URL(form.action).pathname, made: Date.now(), says, body: { ...body, by: document.body.dataset.by ?? "" } });
});

const queue = browserQueue({
  sent: () => { if (!queue.waiting.length) tell(""); },
  failed: (why, n) => tell(`${why} ${n === 1 ? "Your tap is" : `${n} taps are`} kept and will be sent.`),
  refused: () => location.reload(),
});

/** Shows a message about taps that wait. @param {string} text */
function tell(text) {
  const line = byId("said");
  if (!line) return;
  line.textContent = text;
  line.classList.toggle("lost", text !== "");
}

document.addEventListener("keydown", (e) => {
  if (isTyping(e) || e.repeat) return;
  if (e.key === " " && !target(e).closest("summary, .menu form")) {
    e.preventDefault();
    byId("tap")?.click();
  } else if (e.key.toLowerCase() === "m") sound.nextMode();
  else find(`#board [data-key="${CSS.escape(e.key.toLowerCase())}"]`)?.click();
});
document.addEventListener("pointerdown", sound.wake);
document.addEventListener("keydown", sound.wake);
document.addEventListener("click", (e) => { if (target(e).closest("#mute")) sound.nextMode(); });
document.addEventListener("keyup", (e) => { if (e.key === " " && !target(e).closest("input, textarea")) e.preventDefault(); });
document.addEventListener("htmx:after:swap", sync);
sync();
setInterval(tick, 200);
queue.send();

function stayAwake() {
  if (!document.hidden) navigator.wakeLock?.request("screen").catch(() => { /* the device decides */ });
}
document.addEventListener("visibilitychange", stayAwake); // hidden screens lose the lock
stayAwake();
