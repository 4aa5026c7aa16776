// Boards that keep time for several things at once: a rush and a stage. The server says what
// is due when; this counts down to it, moves the mark of now, and passes taps and keys on.
"use strict";

const board = { zero: Date.now() };
const boardNow = () => (Date.now() - board.zero) / 1000;

function span(s) {
  const whole = Math.max(0, Math.ceil(Math.abs(s)));
  return whole < 60 ? `${whole} s` : `${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, "0")}`;
}

function boardSync() {
  const el = document.getElementById("board");
  if (!el) return;
  board.zero = Date.now() - Number(el.dataset.elapsed) * 1000;
  boardTick();
}

function boardTick() {
  const el = document.getElementById("board");
  if (!el || !("runs" in el.dataset)) return;
  const t = boardNow();
  for (const c of el.querySelectorAll("[data-clock]")) c.textContent = `${Math.floor(t / 60)}:${String(Math.floor(t % 60)).padStart(2, "0")}`;
  for (const c of el.querySelectorAll("[data-until]")) {
    const due = Number(c.dataset.until) + ("busy" in c.dataset ? Number(c.dataset.lasts) : 0), left = due - t;
    c.textContent = left > 0 ? span(left) : "busy" in c.dataset ? "in?" : "now";
    c.classList.toggle("soon", left <= 3);
  }
  for (const c of el.querySelectorAll("[data-due]")) {
    const due = Number(c.dataset.due);
    c.textContent = due < 0 ? "" : due - t > 0 ? span(due - t) : "now";
    c.classList.toggle("soon", due >= 0 && due - t <= 5);
  }
  for (const line of el.querySelectorAll("[data-now]")) line.setAttribute("transform", `translate(${Number(line.dataset.from) + t * Number(line.dataset.perSecond)} 0)`);
}

document.addEventListener("submit", (e) => {
  if (!e.target.closest("#board") || e.target.action.endsWith("/end") || e.target.action.endsWith("/more")) return;
  e.preventDefault();
  if (!e.target.getAttribute("action")) return;
  for (const b of e.target.querySelectorAll("button")) b.disabled = true; // until the board comes back changed
  fetch(e.target.action, { method: "POST", headers: { "HX-Request": "true" }, body: new URLSearchParams(new FormData(e.target)) })
    .then((answer) => { if (!answer.ok) location.reload(); })
    .catch(() => { for (const b of e.target.querySelectorAll("button")) b.disabled = false; });
});

document.addEventListener("keydown", (e) => {
  if (e.altKey || e.ctrlKey || e.metaKey || e.repeat || e.target.closest("input, select, textarea")) return;
  if (e.key === " " && !e.target.closest("summary, .menu form")) {
    e.preventDefault();
    document.getElementById("tap")?.click();
  } else document.querySelector(`#board [data-key="${CSS.escape(e.key.toLowerCase())}"]`)?.click();
});
document.addEventListener("keyup", (e) => { if (e.key === " " && !e.target.closest("input, textarea")) e.preventDefault(); });
document.addEventListener("htmx:after:swap", boardSync);
boardSync();
setInterval(boardTick, 200);
navigator.wakeLock?.request("screen").catch(() => { /* the device decides */ });
