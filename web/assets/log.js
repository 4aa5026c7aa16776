// The log by keyboard: a slash goes to the search, arrows move between brews, c marks one for comparison.
import { byId, find, findAll, isTyping, target } from "./dom.js";

const rows = () => findAll(".log .row-open");

/** Moves the focus by some rows. @param {number} by */
function move(by) {
  const all = rows(), at = all.indexOf(/** @type {HTMLElement} */ (document.activeElement));
  const next = at < 0 ? (by > 0 ? 0 : all.length - 1) : Math.min(all.length - 1, Math.max(0, at + by));
  all[next]?.focus();
}

/** The number of marked brews is shown, and no more than allowed can be marked. */
function count() {
  const form = byId("marked");
  if (!form) return;
  const boxes = findAll("[name=id]", form).map((e) => /** @type {HTMLInputElement} */ (e)), n = boxes.filter((b) => b.checked).length;
  for (const b of boxes) b.disabled = !b.checked && n >= Number(form.dataset.most);
  const button = /** @type {HTMLButtonElement} */ (byId("compare-marked"));
  button.disabled = n < 2;
  button.textContent = n < 2 ? "Compare the marked brews" : `Compare ${n} brews`;
}

document.addEventListener("keydown", (e) => {
  const search = /** @type {HTMLInputElement} */ (byId("q"));
  if (e.target === search && (e.key === "ArrowDown" || e.key === "Escape")) {
    e.preventDefault();
    if (e.key === "Escape") search.blur();
    else move(1);
    return;
  }
  if (!byId("marked")) return;
  if (isTyping(e) && !target(e).closest(".log-mark, .path-mark")) return;
  if (e.key === "/") search?.focus();
  else if (e.key === "ArrowDown" && rows().length > 0) move(1);
  else if (e.key === "ArrowUp" && rows().length > 0) move(-1);
  else if (e.key.toLowerCase() === "c") find("[name=id]", target(e).closest("#marked li") ?? undefined)?.click();
  else return;
  e.preventDefault();
});
document.addEventListener("change", count);
document.addEventListener("htmx:after:swap", count);
count();
