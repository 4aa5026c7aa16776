// Scripts of every page: steppers, fixes, shortcuts and the slider of the cutaway.
import { drawFrame } from "./cutaway.js";
import { byId, find, target } from "./dom.js";
import { step } from "./fields.js";

// Browsers offer service workers only over TLS and on this machine. Without one, pages of a brew
// continue as long as they are open.
navigator.serviceWorker?.register("/sw.js").catch(() => { /* a private window has none */ });

document.addEventListener("click", (e) => {
  const button = /** @type {HTMLElement} */ (target(e).closest("button.step"));
  if (!button) return;
  button.focus({ preventScroll: true }); // shows what the step does, also for touch
  step(/** @type {HTMLInputElement} */ (byId(button.dataset.for)), Number(button.dataset.by), e.shiftKey);
});

// A fix types its value into its field and names the amount that is kept.
document.addEventListener("click", (e) => {
  const fix = /** @type {HTMLElement} */ (target(e).closest("button.fix"));
  if (!fix) return;
  const field = /** @type {HTMLInputElement} */ (byId(fix.dataset.set));
  const keep = /** @type {HTMLInputElement} */ (field.form.elements.namedItem("keep"));
  field.value = fix.dataset.value;
  if (keep) keep.value = fix.dataset.keep;
  field.dispatchEvent(new Event("change", { bubbles: true }));
});

// A file that is too large is refused before it is sent.
document.addEventListener("change", (e) => {
  const field = /** @type {HTMLInputElement} */ (target(e).closest("input[type=file][data-most]"));
  if (!field) return;
  field.setCustomValidity(field.files[0]?.size > Number(field.dataset.most) ? field.dataset.over : "");
  field.reportValidity();
});

// A term of the trade is explained in place. Without scripts, and with a modifier key, its link opens the glossary.
document.addEventListener("click", (e) => {
  const term = /** @type {HTMLAnchorElement} */ (target(e).closest("a.term[data-says]"));
  const panel = byId("term");
  if (!term || !panel?.showPopover || e.ctrlKey || e.metaKey || e.shiftKey) return;
  e.preventDefault();
  const [word, says] = [find("#term strong"), find("#term p")];
  word.textContent = term.dataset.word;
  says.textContent = term.dataset.says;
  /** @type {HTMLAnchorElement} */ (find("#term a")).href = term.href;
  panel.showPopover();
});

// The glossary is searched while typing.
document.addEventListener("input", (e) => {
  if (!target(e).matches(".glossary-search input")) return;
  const text = /** @type {HTMLInputElement} */ (target(e)).value.trim().toLowerCase();
  const entries = /** @type {HTMLElement[]} */ ([...document.querySelectorAll(".glossary > div")]);
  for (const entry of entries) entry.hidden = !entry.textContent.toLowerCase().includes(text);
  byId("none-found").hidden = entries.some((entry) => !entry.hidden);
});

/**
 * Opens the target of a shortcut; false if the page does not have it.
 * @param {HTMLElement} element
 */
function open(element) {
  if (!element) return false;
  element.focus();
  element.click();
  return true;
}

document.addEventListener("keydown", (e) => {
  const field = /** @type {HTMLInputElement} */ (target(e).closest("input, select, textarea"));
  if (field?.dataset.step && (e.key === "ArrowUp" || e.key === "ArrowDown")) {
    e.preventDefault();
    step(field, e.key === "ArrowUp" ? 1 : -1, e.shiftKey);
    return;
  }
  let used = false;
  if (e.altKey && e.key >= "1" && e.key <= "6") used = open(find(`.line li:nth-child(${e.key}) a`));
  else if (e.altKey && e.key.toLowerCase() === "l") used = open(find('.side a[href="/log"]'));
  else if (e.altKey && e.key === "Enter") used = open(find("main .button.now"));
  else if (e.key === "?" && !field) used = open(find(".help-button") ?? find('.side a[href="/keys"]'));
  if (used) e.preventDefault();
});

// The cutaway shows the moment of the slider, or of the pointer over the ribbon.
const slider = () => /** @type {HTMLInputElement} */ (byId("moment"));

function showMoment() {
  if (slider()) drawFrame(find(".cutaway"), slider().value);
}

document.addEventListener("htmx:after:swap", showMoment);
document.addEventListener("input", (e) => { if (target(e).id === "moment") showMoment(); });
document.addEventListener("pointermove", (e) => {
  const ribbon = /** @type {any} */ (target(e).closest?.(".ribbon[data-per-second]"));
  if (!ribbon || !slider()) return;
  const { from, perSecond } = ribbon.dataset;
  const { x } = new DOMPoint(e.clientX, e.clientY).matrixTransform(ribbon.getScreenCTM().inverse());
  slider().value = String(Math.round((x - Number(from)) / Number(perSecond) / Number(slider().dataset.every)));
  showMoment();
});

// Choosing who is here must not leave a running brew for an error page, so the page is reloaded only if the server
// has stored it.
document.addEventListener("submit", async (e) => {
  const chooser = /** @type {HTMLFormElement} */ (target(e).closest("form.chooser"));
  if (!chooser) return;
  e.preventDefault();
  const button = /** @type {HTMLButtonElement} */ (e.submitter);
  try {
    const answer = await fetch(chooser.action, { method: "POST", body: new URLSearchParams({ person: button.value, back: "/keys" }) });
    if (answer.ok) { location.reload(); return; }
  } catch { /* told below */ }
  button.title = "The server does not answer";
  button.classList.add("lost");
});
