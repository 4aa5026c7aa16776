// Dragging of pours on the ribbon. A drag moves a line and types its value into the entry of the
// pour; the server works out the rest.
import { byId, target } from "./dom.js";
import { put, step, write } from "./fields.js";

/**
 * @typedef {object} Drag
 * @property {any} grip
 * @property {any} svg
 * @property {number} value at its start
 * @property {number} to at present
 * @property {DOMPoint} from
 */

/** @type {Drag} */
let held = null;

/** @param {HTMLElement} grip */
const entryOf = (grip) => /** @type {HTMLInputElement} */ (byId(grip.dataset.grip));
/** @param {HTMLElement} element @param {string} name */
const measure = (element, name) => Number(element.dataset[name]);
/** @param {Event} e @returns {any} */
const gripOf = (e) => target(e).closest?.("[data-grip]");

/**
 * Returns where a pointer is, in the units of the figure.
 * @param {any} svg
 * @param {PointerEvent} e
 */
function place(svg, e) {
  return new DOMPoint(e.clientX, e.clientY).matrixTransform(svg.getScreenCTM().inverse());
}

/**
 * Returns the value of a grip at a point: whole seconds and whole steps of weight, within its limits.
 * @param {Drag} h
 * @param {DOMPoint} at
 */
function moved(h, at) {
  const across = (at.x - h.from.x) / measure(h.svg, "perSecond"), up = (h.from.y - at.y) / measure(h.svg, "perWeight");
  const fine = Number(entryOf(h.grip).dataset.fine) || 1;
  const value = Math.round((h.value + (h.grip.dataset.axis === "x" ? across : up)) / fine) * fine;
  return Math.min(Math.max(value, Number(h.grip.getAttribute("aria-valuemin"))), Number(h.grip.getAttribute("aria-valuemax")));
}

/**
 * Draws the pour as it would be.
 * @param {Drag} h
 */
function ghost(h) {
  const pour = h.grip.closest(".ribbon-pour"), x = (/** @type {number} */ s) => measure(h.svg, "from") + s * measure(h.svg, "perSecond");
  const y = (/** @type {number} */ w) => measure(h.svg, "floor") - w * measure(h.svg, "perWeight");
  let start = measure(pour, "start"), lasts = measure(pour, "lasts"), water = measure(pour, "water");
  const what = h.grip.dataset.grip.split(".")[2], rate = lasts / water;
  if (what === "start") start = h.to;
  if (what === "lasts") lasts = h.to;
  if (what === "water") { water = h.to; lasts = water * rate; }
  const below = measure(pour, "below"), until = Math.max(measure(pour, "until"), start + lasts);
  h.svg.querySelector(".ribbon-ghost").setAttribute("d", `M${x(start)} ${y(0)}V${y(below)}L${x(start + lasts)} ${y(below + water)}H${x(until)}`);
  const said = h.svg.querySelector(".ribbon-said");
  said.setAttribute("x", x(start + lasts));
  said.setAttribute("y", y(below + water) - 14);
  said.textContent = what === "start" ? write(h.to, "0:00", 0) : what === "lasts" ? `${h.to} s` : `${Number(h.to.toFixed(1))} ${h.svg.dataset.unit}`;
}

function letGo() {
  held?.grip.classList.remove("held");
  held?.svg.querySelector(".ribbon-ghost").setAttribute("d", "");
  if (held) held.svg.querySelector(".ribbon-said").textContent = "";
  held = null;
}

document.addEventListener("pointerdown", (e) => {
  const grip = gripOf(e);
  if (!grip || e.button !== 0) return;
  e.preventDefault();
  grip.focus();
  grip.setPointerCapture(e.pointerId);
  grip.classList.add("held");
  const svg = grip.closest("svg"), value = Number(grip.getAttribute("aria-valuenow"));
  held = { grip, svg, value, to: value, from: place(svg, e) };
});

document.addEventListener("pointermove", (e) => {
  if (!held) return;
  held.to = moved(held, place(held.svg, e));
  ghost(held);
});

document.addEventListener("pointerup", () => {
  if (!held) return;
  const { grip, value, to } = held;
  letGo();
  if (to !== value) put(entryOf(grip), to, 2);
});

document.addEventListener("pointercancel", letGo);

// A response during a drag redraws the page; the drag goes on.
document.addEventListener("htmx:after:swap", () => {
  if (!held) return;
  const grip = document.getElementById(held.grip.id);
  if (!grip) { letGo(); return; }
  held.grip = grip;
  held.svg = grip.closest("svg");
  grip.classList.add("held");
  ghost(held);
});

// Keys on a grip: arrows step, Shift makes the step fine, letters edit the pours.
/** @type {Record<string, string>} */
const does = { Delete: "remove", Backspace: "remove", s: "split", m: "merge", p: "pin", a: "add" };

document.addEventListener("keydown", (e) => {
  if (e.key === "Escape") { letGo(); return; }
  if ((e.ctrlKey || e.metaKey) && !target(e).closest("input, select, textarea")) {
    const again = e.key.toLowerCase() === "y" || e.key.toLowerCase() === "z" && e.shiftKey;
    if (!again && e.key.toLowerCase() !== "z") return;
    e.preventDefault();
    document.getElementById(again ? "redo" : "undo")?.click();
    return;
  }
  const grip = gripOf(e);
  if (!grip) return;
  /** @type {Record<string, number>} */
  const ways = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1 }, way = ways[e.key];
  /** @type {Record<string, string>} */
  const edges = { Home: "aria-valuemin", End: "aria-valuemax" }, edge = edges[e.key];
  if (way) step(entryOf(grip), way, e.shiftKey);
  else if (edge) put(entryOf(grip), Number(grip.getAttribute(edge)), 2);
  else if (does[e.key] && !e.altKey) document.getElementById(`pour-${grip.closest(".ribbon-pour").dataset.pour}-${does[e.key]}`)?.click();
  else return;
  e.preventDefault();
});
