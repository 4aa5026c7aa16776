// Steppers and shortcuts. No rule of the job is here: a changed number is sent
// to the server, and what follows from it comes back.
"use strict";

// step adds so many strides to a number field, as if it had been typed.
function step(input, strides, fine) {
  const stride = Number(fine ? input.dataset.fine : input.dataset.step);
  const now = Number(input.value.replace("1 :", "").replace("1:", "").replace("−", "-").replace(",", "."));
  if (!stride || Number.isNaN(now)) return;
  const decimals = Math.max(...[input.dataset.step, input.dataset.fine, input.value].map((s) => (s.split(/[.,]/)[1] || "").length));
  input.value = String(Number((now + strides * stride).toFixed(decimals)));
  input.dispatchEvent(new Event("change", { bubbles: true }));
}

document.addEventListener("click", (e) => {
  const button = e.target.closest("button.step");
  if (!button) return;
  step(document.getElementById(button.dataset.for), Number(button.dataset.by), e.shiftKey);
});

// A fix types its value into its field, and says which amount stays as it is.
document.addEventListener("click", (e) => {
  const fix = e.target.closest("button.fix");
  if (!fix) return;
  const field = document.getElementById(fix.dataset.set);
  field.value = fix.dataset.value;
  if (field.form.elements.keep) field.form.elements.keep.value = fix.dataset.keep;
  field.dispatchEvent(new Event("change", { bubbles: true }));
});

// go opens what a shortcut names, where the page has it.
function go(element) {
  if (!element) return false;
  element.focus();
  element.click();
  return true;
}

document.addEventListener("keydown", (e) => {
  const field = e.target.closest("input, select, textarea");
  if (field?.dataset.step && (e.key === "ArrowUp" || e.key === "ArrowDown")) {
    e.preventDefault();
    step(field, e.key === "ArrowUp" ? 1 : -1, e.shiftKey);
    return;
  }
  let used = false;
  if (e.altKey && e.key >= "1" && e.key <= "6") used = go(document.querySelector(`.line li:nth-child(${e.key}) a`));
  else if (e.altKey && e.key.toLowerCase() === "l") used = go(document.querySelector('.side a[href="/log"]'));
  else if (e.altKey && e.key === "Enter") used = go(document.querySelector("main .button.now"));
  else if (e.key === "?" && !field) used = go(document.querySelector('.side a[href="/keys"]'));
  if (used) e.preventDefault();
});

// The cutaway shows the moment that the slider names, or the pointer over the ribbon.
function showMoment() {
  const slider = document.getElementById("moment"), cut = document.querySelector(".cutaway");
  const frame = cut && slider && JSON.parse(cut.dataset.frames)[slider.value];
  if (!frame) return;
  const [water, top, height, ...words] = frame;
  cut.querySelector(".cut-water").setAttribute("d", water);
  cut.querySelector(".cut-coffee").setAttribute("y", top);
  cut.querySelector(".cut-coffee").setAttribute("height", height);
  cut.querySelectorAll(".cut-words").forEach((line, i) => { line.textContent = words[i]; });
}

document.addEventListener("htmx:after:swap", showMoment);
document.addEventListener("input", (e) => { if (e.target.id === "moment") showMoment(); });
document.addEventListener("pointermove", (e) => {
  const ribbon = e.target.closest?.(".ribbon[data-per-second]"), slider = document.getElementById("moment");
  if (!ribbon || !slider) return;
  const x = new DOMPoint(e.clientX, e.clientY).matrixTransform(ribbon.getScreenCTM().inverse()).x;
  slider.value = Math.round((x - ribbon.dataset.from) / ribbon.dataset.perSecond / slider.dataset.every);
  showMoment();
});
