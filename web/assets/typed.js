// Restores typed text after Back and Forward, and checks the version and the session of a page
// restored from the back-forward cache. Forms that save each change on the server are excluded.
"use strict";

const keptForms = () => [...document.querySelectorAll('form[method="post"]:not([data-entries]):not([hx-post])')].filter((form) => form.querySelector("input:not([type=hidden]), textarea, select"));
const keptEntries = (form) => [...form.elements].filter((e) => e.name && !/^(hidden|submit|button|image|password|file)$/.test(e.type));
const keptKey = (form) => `typed ${location.pathname} ${form.getAttribute("action")}`;

// keepTyped stores the values of a form in the session storage of this tab.
function keepTyped(form) {
  const values = keptEntries(form).map((e) => (e.type === "checkbox" || e.type === "radio" ? [e.name, e.value, e.checked] : [e.name, e.value]));
  try {
    sessionStorage.setItem(keptKey(form), JSON.stringify(values));
  } catch { /* storage is unavailable or full */ }
}

// typeAgain restores stored values. Fields that no longer exist are skipped.
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
    const form = e.target.form ?? e.target.closest?.("form");
    if (form && keptForms().includes(form)) keepTyped(form);
  });
}

if (performance.getEntriesByType("navigation")[0]?.type === "back_forward") keptForms().forEach(typeAgain);

const versionsOf = (page) => [...page.querySelectorAll('input[name="version"]')].map((i) => i.getAttribute("value")).join(" ");

window.addEventListener("pageshow", async (e) => {
  if (!e.persisted) return;
  try {
    const answer = await fetch(location.href);
    if (answer.redirected) return location.reload(); // the session ended, or the page moved
    if (!answer.ok) return;
    const now = new DOMParser().parseFromString(await answer.text(), "text/html");
    if (versionsOf(now) === versionsOf(document)) return;
    const typed = keptForms().some((form) => keptEntries(form).some((entry) => "defaultValue" in entry && !/checkbox|radio/.test(entry.type) && entry.value !== entry.defaultValue));
    if (!typed) return location.reload();
    const notice = document.createElement("p");
    notice.className = "notice notice-wrong";
    notice.setAttribute("role", "alert");
    notice.textContent = "This page was changed since you left it. Your text is still here; saving it shows you both.";
    document.querySelector("main").prepend(notice);
  } catch { /* offline: keep the page */ }
});
