// The pours of a recipe, taken hold of on the ribbon. What is moved here is only a line
// and a number: the number is typed into the pour's own entry, and what it means is
// worked out by the server.
"use strict";

let held = null; // the grip in hand: where it was taken, and where it would be put

const entryOf = (grip) => document.getElementById(grip.dataset.grip);
const measure = (element, name) => Number(element.dataset[name]);

// place is where a pointer is, in the figure's own units.
function place(svg, e) {
  return new DOMPoint(e.clientX, e.clientY).matrixTransform(svg.getScreenCTM().inverse());
}

// moved is the value that a grip would have where the pointer is now: whole seconds
// and whole steps of weight, as far as the grip may go.
function moved(h, at) {
  const across = (at.x - h.from.x) / measure(h.svg, "perSecond"), up = (h.from.y - at.y) / measure(h.svg, "perWeight");
  const fine = Number(entryOf(h.grip).dataset.fine) || 1;
  const value = Math.round((h.value + (h.grip.dataset.axis === "x" ? across : up)) / fine) * fine;
  return Math.min(Math.max(value, Number(h.grip.getAttribute("aria-valuemin"))), Number(h.grip.getAttribute("aria-valuemax")));
}

// ghost draws the pour as it would be.
function ghost(h) {
  const pour = h.grip.closest(".ribbon-pour"), x = (s) => measure(h.svg, "from") + s * measure(h.svg, "perSecond");
  const y = (w) => measure(h.svg, "floor") - w * measure(h.svg, "perWeight");
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
  const grip = e.target.closest?.("[data-grip]");
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

// An answer that comes while a grip is in hand draws the page anew: the hand keeps its grip.
document.addEventListener("htmx:after:swap", () => {
  if (!held) return;
  const grip = document.getElementById(held.grip.id);
  if (!grip) return letGo();
  held.grip = grip;
  held.svg = grip.closest("svg");
  grip.classList.add("held");
  ghost(held);
});

// What the keys do on a grip: arrows nudge, Shift is fine, letters change which pours there are.
const does = { Delete: "remove", Backspace: "remove", s: "split", m: "merge", p: "pin", a: "add" };

document.addEventListener("keydown", (e) => {
  if (e.key === "Escape") return letGo();
  if ((e.ctrlKey || e.metaKey) && !e.target.closest("input, select, textarea")) {
    const again = e.key.toLowerCase() === "y" || e.key.toLowerCase() === "z" && e.shiftKey;
    if (!again && e.key.toLowerCase() !== "z") return;
    e.preventDefault();
    document.getElementById(again ? "redo" : "undo")?.click();
    return;
  }
  const grip = e.target.closest?.("[data-grip]");
  if (!grip) return;
  const way = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1 }[e.key];
  const edge = { Home: "aria-valuemin", End: "aria-valuemax" }[e.key];
  if (way) step(entryOf(grip), way, e.shiftKey);
  else if (edge) put(entryOf(grip), Number(grip.getAttribute(edge)), 2);
  else if (does[e.key] && !e.altKey) document.getElementById(`pour-${grip.closest(".ribbon-pour").dataset.pour}-${does[e.key]}`)?.click();
  else return;
  e.preventDefault();
});
