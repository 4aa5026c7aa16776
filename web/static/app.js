// Steppers and shortcuts. No rule of the job is here: a changed number is sent
// to the server, and what follows from it comes back.
"use strict";

// Over plain HTTP from another machine a browser gives no service worker: then the pages of a
// brew go on as long as they are open.
navigator.serviceWorker?.register("/sw.js").catch(() => { /* a private window has none */ });

// holdPage lets this device hold a page of a brew, for when the server is away.
async function holdPage(path, text) {
  try {
    const folder = new URL(document.querySelector('link[rel="stylesheet"]').href).pathname.replace(/[^/]*$/, "");
    const cache = await caches.open(`pages ${folder}`);
    await cache.put(path, new Response(text, { headers: { "Content-Type": "text/html; charset=utf-8" } }));
  } catch { /* no cache here, or it is full */ }
}

// read and write turn what stands in a number field into a number and back: 1 : 16.5,
// 2,5, or a time such as 1:05 in seconds.
function read(text) {
  const bare = text.trim().replace("1 :", "").replace("−", "-").replace(",", ".");
  const clock = bare.match(/^(\d+):(\d\d)$/);
  return clock ? 60 * Number(clock[1]) + Number(clock[2]) : Number(bare);
}

function write(value, like, decimals) {
  if (!/\d:\d\d$/.test(like.trim())) return String(Number(value.toFixed(decimals)));
  const s = Math.max(0, Math.round(value));
  return `${Math.floor(s / 60)}:${String(s % 60).padStart(2, "0")}`;
}

// step adds so many strides to a number field, as if it had been typed.
function step(input, strides, fine) {
  const stride = Number(fine ? input.dataset.fine : input.dataset.step), now = read(input.value);
  if (!stride || Number.isNaN(now)) return;
  const decimals = Math.max(...[input.dataset.step, input.dataset.fine, input.value].map((s) => (s.split(/[.,]/)[1] || "").length));
  put(input, now + strides * stride, decimals);
}

// put types a number into a field.
function put(input, value, decimals) {
  input.value = write(value, input.value, decimals);
  input.dispatchEvent(new Event("change", { bubbles: true }));
}

document.addEventListener("click", (e) => {
  const button = e.target.closest("button.step");
  if (!button) return;
  button.focus({ preventScroll: true }); // so that a finger too sees what the step does
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
  if (slider) drawMoment(cut, slider.value);
}

// drawMoment draws one of a cutaway's moments; after the last one it stays as it is.
function drawMoment(cut, moment) {
  const frame = cut && JSON.parse(cut.dataset.frames)[moment];
  if (!frame) return;
  const [water, top, height, crust, ice, ...words] = frame;
  cut.querySelector(".cut-water").setAttribute("d", water);
  cut.querySelector(".cut-crust").setAttribute("d", crust);
  cut.querySelector(".cut-ice").setAttribute("d", ice);
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

// realLine is the line of what a scale shows on a ribbon; what stood there before goes.
function realLine(svg) {
  let line = svg.querySelector(".ribbon-trace");
  if (!line) {
    svg.querySelector(".ribbon-real")?.remove();
    line = document.createElementNS("http://www.w3.org/2000/svg", "path");
    line.setAttribute("class", "ribbon-real ribbon-trace");
    svg.append(line);
  }
  return line;
}

// drawTo goes on with such a line to a second and what was poured by then.
function drawTo(svg, line, t, g) {
  const d = svg.dataset, so = line.getAttribute("d") ?? "";
  const x = Number(d.from) + t * Number(d.perSecond), y = Number(d.floor) - Math.max(0, g) * Number(d.perGram);
  line.setAttribute("d", `${so}${so && d.pen !== "up" ? "L" : "M"}${x.toFixed(1)} ${y.toFixed(1)}`);
  d.pen = "down";
}
