// A pour for practice: counts down, shows what the scale says against what is wanted, and
// sends it to be scored. Without a scale two taps say when water ran.
"use strict";

const pour = { phase: "ready", source: null, readings: [], zero: 0, level: 0, began: 0, timer: 0 };
const el = (id) => document.getElementById(id);
const lesson = el("exercise").dataset;

function put(id, text) { el(id).textContent = text; }

function clockOf(t) { return t < 0 ? `−${Math.ceil(-t)}` : `${Math.floor(t / 60)}:${String(Math.floor(t % 60)).padStart(2, "0")}`; }

function begin() {
  const by = el("by").value;
  pour.readings = [];
  pour.zero = Date.now() + 3000;
  pour.phase = by ? "scale" : "first";
  put("step", "Get ready");
  put("tapsays", by ? "Tap when you have stopped" : "Tap as the water starts");
  if (by) {
    pour.source = new EventSource(`/practice/${lesson.lesson}/live?${by}`);
    pour.source.addEventListener("scale", (e) => weighed(JSON.parse(e.data)));
    pour.source.onerror = () => { pour.source.close(); put("step", "The scale was lost"); pour.phase = "ready"; };
  }
  clearInterval(pour.timer);
  pour.timer = setInterval(() => { if (pour.phase !== "ready") tick((Date.now() - pour.zero) / 1000); }, 100);
}

function tick(t) {
  put("clock", clockOf(t));
  if (t >= 0 && el("step").textContent === "Get ready") put("step", "Pour");
}

function weighed(n) {
  // What stands on the scale before the signal counts as nothing.
  if (n.t < -0.5) { pour.level = n.g; return; }
  const g = n.g - pour.level, wanted = Number(lesson.rate) / Number(lesson.toG), whole = Number(lesson.water) / Number(lesson.toG);
  pour.readings.push(`${n.t.toFixed(2)},${(g * Number(lesson.toG)).toFixed(1)}`);
  put("togo", whole - g >= 0 ? `${(whole - g).toFixed(lesson.decimals)} ${lesson.unit} to go` : `${(g - whole).toFixed(lesson.decimals)} ${lesson.unit} over`);
  put("rate-says", `${n.r.toFixed(Number(lesson.decimals) + 1)} of ${wanted.toFixed(Number(lesson.decimals) + 1)} ${lesson.unit}/s`);
  el("rate-now").style.transform = `scaleX(${Math.min(1, n.r / (2 * wanted)).toFixed(2)})`;
  el("rate").classList.toggle("fast", n.r > 1.2 * wanted);
  el("rate").classList.toggle("slow", n.pours && n.r < 0.8 * wanted);
  for (const svg of document.querySelectorAll(".ribbon[data-per-gram]")) {
    const line = realLine(svg);
    if (n.t >= 0) drawTo(svg, line, n.t, g);
  }
  // A pour that has ended some seconds ago is over.
  if (n.pours) pour.ran = n.t;
  else if (pour.ran && n.t - pour.ran > 3) finish();
}

function finish() {
  pour.source?.close();
  clearInterval(pour.timer);
  pour.phase = "done";
  el("kept").elements.readings.value = pour.readings.join(";");
  el("kept").submit();
}

function tap() {
  const t = (Date.now() - pour.zero) / 1000, form = el("by-taps");
  if (pour.phase === "ready") begin();
  else if (pour.phase === "scale" && t > 1) finish();
  else if (pour.phase === "first") {
    form.elements.began.value = t.toFixed(2);
    pour.phase = "second";
    put("tapsays", "Tap as it stops");
  } else if (pour.phase === "second") {
    form.elements.ended.value = t.toFixed(2);
    clearInterval(pour.timer);
    pour.phase = "done";
    form.hidden = false;
    form.elements.water.focus();
    put("step", "What does the scale say?");
  }
}

el("tap").addEventListener("click", tap);
document.addEventListener("keydown", (e) => {
  if (e.key !== " " || e.target.closest("input, select, textarea")) return;
  e.preventDefault();
  if (!e.repeat) tap();
});
document.addEventListener("keyup", (e) => { if (e.key === " " && !e.target.closest("input, select, textarea")) e.preventDefault(); });
