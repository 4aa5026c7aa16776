// Restores typed text after Back and Forward, and checks the version and the session of a page
// restored from the back-forward cache. Forms that save each change on the server are excluded.
import { find, findAll } from "./dom.js";

/** @returns {HTMLFormElement[]} */
const keptForms = () => findAll('form[method="post"]:not([data-entries]):not([hx-post])')
  .map((form) => /** @type {HTMLFormElement} */ (form)).filter((form) => form.querySelector("input:not([type=hidden]), textarea, select"));
/** @param {HTMLFormElement} form @returns {HTMLInputElement[]} */
const keptEntries = (form) => [...form.elements].map((e) => /** @type {HTMLInputElement} */ (e)).filter((e) => e.name && !/^(hidden|submit|button|image|password|file)$/.test(e.type));
/** @param {HTMLFormElement} form */
const keptKey = (form) => `typed ${location.pathname} ${form.getAttribute("action")}`;

/** Stores the values of a form in this tab. @param {HTMLFormElement} form */
function keepTyped(form) {
  const values = keptEntries(form).map((e) => (e.type === "checkbox" || e.type === "radio" ? [e.name, e.value, e.checked] : [e.name, e.value]));
  try {
    sessionStorage.setItem(keptKey(form), JSON.stringify(values));
  } catch { /* storage is unavailable or full */ }
}

/** Restores stored values. Fields that no longer exist are skipped. @param {HTMLFormElement} form */
function typeAgain(form) {
  const kept = JSON.parse(sessionStorage.getItem(keptKey(form)) ?? "[]");
  let changed = false;
  for (const [name, value, checked] of kept) {
    const entry = keptEntries(form).find((e) => e.name === name && (checked === undefined || e.value === value));
    if (!entry) continue;
    changed ||= checked === undefined ? entry.value !== value : entry.checked !== checked;
    if (checked === undefined) entry.value = value;
    else entry.checked = checked;
  }
  if (changed) form.dispatchEvent(new Event("input", { bubbles: true })); // update dependent values
}

for (const type of ["input", "change"]) {
  document.addEventListener(type, (e) => {
    const element = /** @type {any} */ (e.target), form = element.form ?? element.closest?.("form");
    if (form && keptForms().includes(form)) keepTyped(form);
  });
}

const [visit] = /** @type {PerformanceNavigationTiming[]} */ (performance.getEntriesByType("navigation"));
if (visit?.type === "back_forward") keptForms().forEach(typeAgain);

/** @param {Document} page */
const versionsOf = (page) => [...page.querySelectorAll('input[name="version"]')].map((i) => i.getAttribute("value")).join(" ");

window.addEventListener("pageshow", async (e) => {
  if (!e.persisted) return;
  try {
    const answer = await fetch(location.href);
    if (answer.redirected) { location.reload(); return; } // the session ended, or the page moved
    if (!answer.ok) return;
    const now = new DOMParser().parseFromString(await answer.text(), "text/html");
    if (versionsOf(now) === versionsOf(document)) return;
    const typed = keptForms().some((form) => keptEntries(form).some((entry) => "defaultValue" in entry && !/checkbox|radio/.test(entry.type) && entry.value !== entry.defaultValue));
    if (!typed) { location.reload(); return; }
    const notice = document.createElement("p");
    notice.className = "notice notice-wrong";
    notice.setAttribute("role", "alert");
    notice.textContent = "This page was changed since you left it. Your text is still here; saving it shows you both.";
    find("main").prepend(notice);
  } catch { /* offline: keep the page */ }
});
