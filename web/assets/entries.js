// Protects typed text on a page that the server re-renders. A field keeps its text while a person
// types in it or while its change is unanswered; every other field takes the value of the
// response. Each request of a form with data-entries lists the changed fields, oldest first.
"use strict";

const entries = {
  typing: new Set(), // fields with input since the last change event
  unsent: new Set(), // fields changed since the last request, oldest first
  sent: new Map(), // pending request → its changed fields
};

const entryForms = "form[data-entries]";
const entryKey = (element) => `${element.form.id} ${element.name}`;
const isEntry = (element) => Boolean(element?.name && element.form?.matches(entryForms) && !/^(hidden|submit|button|image)$/.test(element.type));

const sendsChanges = (form) => form?.dataset.entries === "changes"; // false: the form is sent by a button

// pendingEntries reports whether a change is unanswered.
const pendingEntries = () => entries.sent.size > 0 || [...entries.unsent].some((key) => sendsChanges(document.getElementById(key.split(" ")[0])));

function isProtected(element) {
  const key = entryKey(element);
  return entries.typing.has(key) || entries.unsent.has(key) || [...entries.sent.values()].some((keys) => keys.includes(key));
}

// settle sets a field to the value of the rendered page.
function settle(element) {
  if (element.type === "checkbox" || element.type === "radio") element.checked = element.defaultChecked;
  else if (element.tagName === "SELECT") element.selectedIndex = Math.max(0, [...element.options].findIndex((o) => o.defaultSelected));
  else if (element.value !== element.defaultValue) element.value = element.defaultValue;
}

const allEntries = () => [...document.querySelectorAll(entryForms)].flatMap((form) => [...form.elements].filter(isEntry));

function changed(element) {
  const key = entryKey(element);
  entries.unsent.delete(key); // moves the key to the end
  entries.unsent.add(key);
}

// The capture phase runs before the listeners of htmx.
document.addEventListener("input", (e) => {
  if (!isEntry(e.target)) return;
  entries.typing.add(entryKey(e.target));
  changed(e.target);
}, true);
document.addEventListener("change", (e) => {
  if (!isEntry(e.target)) return;
  entries.typing.delete(entryKey(e.target));
  changed(e.target);
}, true);
document.addEventListener("focusout", (e) => {
  if (!isEntry(e.target)) return;
  entries.typing.delete(entryKey(e.target));
  if (!isProtected(e.target)) settle(e.target);
});

document.addEventListener("htmx:config:request", (e) => {
  const { ctx } = e.detail, { form, submitter, body } = ctx.request;
  if (!form?.matches(entryForms)) return;
  const keys = [...entries.unsent].filter((key) => key.startsWith(`${form.id} `));
  if (keys.length === 0 && !submitter?.name && sendsChanges(form)) {
    e.preventDefault(); // nothing changed since the last request
    return;
  }
  keys.forEach((key) => entries.unsent.delete(key));
  entries.sent.set(ctx, keys);
  body.set("changed", keys.map((key) => key.slice(form.id.length + 1)).join(" "));
  if (form.elements.keep) form.elements.keep.value = "";
});
document.addEventListener("htmx:after:request", (e) => {
  const { ctx } = e.detail;
  if (ctx.response.status < 500) entries.sent.delete(ctx); // accepted or refused: the response has the current values
});
document.addEventListener("htmx:finally:request", (e) => {
  const keys = entries.sent.get(e.detail.ctx);
  if (!keys) return;
  entries.sent.delete(e.detail.ctx);
  entries.unsent = new Set([...keys.filter((key) => !entries.unsent.has(key)), ...entries.unsent]); // failed: send again with the next request
});

const kept = new Map(); // values of protected fields before a swap
let selected = null; // id of the focused field if all its text was selected

document.addEventListener("htmx:before:swap", () => {
  kept.clear();
  const focus = document.activeElement;
  selected = isEntry(focus) && focus.value !== "" && focus.selectionStart === 0 && focus.selectionEnd === focus.value.length ? focus.id : null;
  allEntries().filter(isProtected).forEach((element) => kept.set(entryKey(element), [element.value, element.checked]));
});
document.addEventListener("htmx:after:swap", () => {
  for (const element of allEntries()) {
    const held = kept.get(entryKey(element));
    if (!isProtected(element)) settle(element);
    else if (held && element.value !== held[0]) element.value = held[0];
    if (held && isProtected(element) && "checked" in element) element.checked = held[1];
  }
  const focus = document.activeElement;
  if (selected && focus?.id === selected && !entries.typing.has(entryKey(focus))) focus.select();
  const there = new Set(allEntries().map(entryKey));
  for (const set of [entries.typing, entries.unsent]) for (const key of set) if (!there.has(key)) set.delete(key);
});

// Navigation waits for pending changes, up to this limit.
const longestWait = 4000; // ms
let leaving = false;

async function whenKept() {
  const end = performance.now() + longestWait;
  while (pendingEntries() && performance.now() < end) await new Promise((done) => { setTimeout(done, 20); });
}

document.addEventListener("click", async (e) => {
  const link = e.target.closest("a[href]");
  if (!link || leaving || e.button !== 0 || e.ctrlKey || e.metaKey || e.shiftKey || link.target || !pendingEntries()) return;
  if (link.getAttribute("href").startsWith("#")) return;
  e.preventDefault();
  await whenKept();
  leaving = true;
  link.click();
  leaving = false;
});
document.addEventListener("submit", async (e) => {
  const { target, submitter } = e;
  if (leaving || !pendingEntries() || target.matches("[hx-post], [hx-get]") && !submitter?.hasAttribute("formaction")) return;
  e.preventDefault();
  await whenKept();
  leaving = true;
  target.requestSubmit(submitter);
  leaving = false;
});
