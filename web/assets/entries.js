// Protects typed text on a page that the server re-renders. A field keeps its text while a person
// types in it or while its change is unanswered; every other field takes the value of the
// response. Each request of a form with data-entries lists the changed fields, oldest first.
import { findAll, target } from "./dom.js";

/** @typedef {any} Entry a named input, select or textarea of a form */

const entries = {
  /** Fields with input since the last change event. @type {Set<string>} */
  typing: new Set(),
  /** Fields changed since the last request, oldest first. @type {Set<string>} */
  unsent: new Set(),
  /** Pending requests with their changed fields. @type {Map<object, string[]>} */
  sent: new Map(),
};

const entryForms = "form[data-entries]";
/** @param {Entry} element */
const entryKey = (element) => `${element.form.id} ${element.name}`;
/** @param {Entry} element */
const isEntry = (element) => Boolean(element?.name && element.form?.matches(entryForms) && !/^(hidden|submit|button|image)$/.test(element.type));

/** Reports whether a form sends each change; else a button sends it. @param {HTMLElement} form */
const sendsChanges = (form) => form?.dataset.entries === "changes";

/** Reports whether a change is unanswered. */
const pendingEntries = () => entries.sent.size > 0 || [...entries.unsent].some((key) => sendsChanges(document.getElementById(key.split(" ")[0])));

/** Shows on the page whether a change is unanswered. */
const markPending = () => document.body.toggleAttribute("data-pending", pendingEntries());

/** Reports whether a field keeps its text. @param {Entry} element */
function isProtected(element) {
  const key = entryKey(element);
  return entries.typing.has(key) || entries.unsent.has(key) || [...entries.sent.values()].some((keys) => keys.includes(key));
}

/** Sets a field to the value of the rendered page. @param {Entry} element */
function settle(element) {
  if (element.type === "checkbox" || element.type === "radio") element.checked = element.defaultChecked;
  else if (element.tagName === "SELECT") element.selectedIndex = Math.max(0, [...element.options].findIndex((/** @type {HTMLOptionElement} */ o) => o.defaultSelected));
  else if (element.value !== element.defaultValue) element.value = element.defaultValue;
}

/** @returns {Entry[]} */
const allEntries = () => findAll(entryForms).flatMap((form) => [.../** @type {HTMLFormElement} */ (form).elements].filter(isEntry));

/** @param {Entry} element */
function changed(element) {
  const key = entryKey(element);
  entries.unsent.delete(key); // moves the key to the end
  entries.unsent.add(key);
  markPending();
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

document.addEventListener("htmx:config:request", (/** @type {CustomEvent} */ e) => {
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
document.addEventListener("htmx:after:request", (/** @type {CustomEvent} */ e) => {
  const { ctx } = e.detail;
  if (ctx.response.status < 500) entries.sent.delete(ctx); // accepted or refused: the response has the current values
  markPending();
});
document.addEventListener("htmx:finally:request", (/** @type {CustomEvent} */ e) => {
  const keys = entries.sent.get(e.detail.ctx);
  if (!keys) { markPending(); return; }
  entries.sent.delete(e.detail.ctx);
  entries.unsent = new Set([...keys.filter((key) => !entries.unsent.has(key)), ...entries.unsent]); // failed: send again with the next request
  markPending();
});

/** Values of protected fields before a swap. @type {Map<string, [string, boolean]>} */
const kept = new Map();
/** ID of the focused field if all its text was selected. @type {string} */
let selected = null;

document.addEventListener("htmx:before:swap", () => {
  kept.clear();
  const focus = /** @type {Entry} */ (document.activeElement);
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
  const focus = /** @type {Entry} */ (document.activeElement);
  if (selected && focus?.id === selected && !entries.typing.has(entryKey(focus))) focus.select();
  const there = new Set(allEntries().map(entryKey));
  for (const set of [entries.typing, entries.unsent]) for (const key of set) if (!there.has(key)) set.delete(key);
  markPending();
});

// Navigation waits for pending changes, up to this limit.
const longestWait = 4000; // ms
let leaving = false;

async function whenKept() {
  const end = performance.now() + longestWait;
  while (pendingEntries() && performance.now() < end) await new Promise((done) => { setTimeout(done, 20); });
}

document.addEventListener("click", async (e) => {
  const link = /** @type {HTMLAnchorElement} */ (target(e).closest("a[href]"));
  if (!link || leaving || e.button !== 0 || e.ctrlKey || e.metaKey || e.shiftKey || link.target || !pendingEntries()) return;
  if (link.getAttribute("href").startsWith("#")) return;
  e.preventDefault();
  await whenKept();
  leaving = true;
  link.click();
  leaving = false;
});
document.addEventListener("submit", async (e) => {
  const form = /** @type {HTMLFormElement} */ (e.target), { submitter } = e;
  if (leaving || !pendingEntries() || form.matches("[hx-post], [hx-get]") && !submitter?.hasAttribute("formaction")) return;
  e.preventDefault();
  await whenKept();
  leaving = true;
  form.requestSubmit(submitter);
  leaving = false;
});
