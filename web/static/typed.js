// Keeps what was typed into a form through Back and Forward, and checks a page that comes back
// from the browser's memory: somebody may have changed what it shows, or the session is over.
// Forms that send each change by themselves keep it on the server and are left out.
"use strict";

const keptForms = () => [...document.querySelectorAll('form[method="post"]:not([data-entries]):not([hx-post])')].filter((form) => form.querySelector("input:not([type=hidden]), textarea, select"));
const keptEntries = (form) => [...form.elements].filter((e) => e.name && !/^(hidden|submit|button|image|password|file)$/.test(e.type));
const keptKey = (form) => `typed ${location.pathname} ${form.getAttribute("action")}`;

// keepTyped keeps the text of a form in this tab, as long as the tab lives.
function keepTyped(form) {
  const values = keptEntries(form).map((e) => (e.type === "checkbox" || e.type === "radio" ? [e.name, e.value, e.checked] : [e.name, e.value]));
  try {
    sessionStorage.setItem(keptKey(form), JSON.stringify(values));
  } catch { /* no storage here, or it is full */ }
}

// typeAgain puts kept text back; entries that the page no longer has are passed over.
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
  if (changed) form.dispatchEvent(new Event("input", { bubbles: true })); // what follows from it is worked out anew
}

for (const type of ["input", "change"]) {
  document.addEventListener(type, (e) => {
    const form = e.target.form ?? e.target.closest?.("form");
    if (form && keptForms().includes(form)) keepTyped(form);
  });
}

if (performance.getEntriesByType("navigation")[0]?.type === "back_forward") keptForms().forEach(typeAgain);

const versionsOf = (page) => [...page.querySelectorAll('input[name="version"]')].map((i) => i.getAttribute("value")).join(" ");

// A page out of the browser's memory is as it was when it was left.
window.addEventListener("pageshow", async (e) => {
  if (!e.persisted) return;
  try {
    const answer = await fetch(location.href);
    if (answer.redirected) return location.reload(); // to the sign-in, or where it leads now
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
  } catch { /* no server: the page stays as it was */ }
});
