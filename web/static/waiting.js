// On pages without a brew: sends the pending entries of this device, reports a missing server, and stores a cup that is filled in meanwhile.
import { byId, find } from "./dom.js";
import { browserQueue, newKey } from "./queue.js";

const kept = Number(document.body.dataset.kept); // when this page was kept, ms; NaN for a page of the server
let why = "";

const queue = browserQueue({
  sent: () => { why = ""; show(); },
  failed: (reason) => { why = reason; show(); },
  refused: () => show(),
});

/** Says calmly what waits. */
function show() {
  const line = byId("waiting"), n = queue.waiting.length, away = !navigator.onLine || kept > 0;
  if (!line) return;
  const parts = [];
  if (kept > 0) parts.push(`Without the server: this page is from ${new Date(kept).toLocaleTimeString([], { hour: "2-digit", minute: "2-digit" })}.`);
  else if (away) parts.push("This device is offline.");
  if (n) parts.push(`${n === 1 ? "One entry is" : `${n} entries are`} kept here and will be sent.`, why);
  line.textContent = parts.join(" ");
  line.hidden = !parts.length;
}

window.addEventListener("online", show);
window.addEventListener("offline", show);

// A cup that is filled in while the server is away: on the page for a brew that the server does not know yet, or on the Cup station.
document.addEventListener("submit", (e) => {
  const form = /** @type {HTMLFormElement} */ (e.target), id = location.pathname.split("/")[2];
  const offline = form.id === "offline-cup";
  if (!offline && !(form.matches(".cupform") && (kept > 0 || !navigator.onLine))) return;
  e.preventDefault();
  /** @type {Record<string, string[]>} */
  const body = {};
  for (const [name, value] of new FormData(form)) {
    const text = String(value).trim(), unit = find(`[name="${CSS.escape(name)}"] ~ .unit`, form)?.textContent ?? "";
    if (!text || name === "version") continue; // late taps make a newer one
    (body[name] ??= []).push(/^[\d.,]+$/.test(text) && unit ? `${text} ${unit}` : text); // a bare number is in the unit that was shown
  }
  queue.add({ id, key: newKey(), url: offline ? `/brews/${id}/cup` : form.getAttribute("action"), made: Date.now(), says: "the cup", body });
  for (const control of form.querySelectorAll("input, button, select, textarea")) /** @type {HTMLInputElement} */ (control).disabled = true;
  show();
});

// Pages that can be read offline are kept in the background.
document.addEventListener("DOMContentLoaded", show);
show();
queue.send();
if (!(kept > 0)) {
  const idle = 2500; // ms
  setTimeout(() => navigator.serviceWorker?.ready.then((r) => r.active?.postMessage("keep")).catch(() => {}), idle);
}
