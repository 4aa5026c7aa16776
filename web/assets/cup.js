// The Cup station: the picture of the bed, the search for notes, and the cooling cup.
import { byId, find, findAll, target } from "./dom.js";

const bed = find(".bed");

/**
 * Gives a place of the bed its next look.
 * @param {HTMLElement} zone
 */
function nextLook(zone) {
  const looks = ["", ...find("[data-looks]").dataset.looks.split(",")];
  const input = /** @type {HTMLInputElement} */ (find(`input[name="spot.${zone.dataset.place}"]`));
  const look = looks[(looks.indexOf(input.value) + 1) % looks.length];
  input.value = look;
  zone.setAttribute("class", `zone ${look}`);
  zone.setAttribute("aria-label", `${zone.dataset.name}: ${look || "even"}`);
  zone.querySelector("text").textContent = look;
}

bed?.addEventListener("click", (e) => {
  const zone = /** @type {HTMLElement} */ (target(e).closest(".zone"));
  if (zone) nextLook(zone);
});
bed?.addEventListener("keydown", (e) => {
  const zone = /** @type {HTMLElement} */ (target(e).closest(".zone"));
  if (!zone || (e.key !== " " && e.key !== "Enter")) return;
  e.preventDefault();
  nextLook(zone);
});

// One of two likes of a sense at most.
find(".cupform")?.addEventListener("change", (e) => {
  const box = /** @type {HTMLInputElement} */ (e.target);
  if (!box.name?.endsWith(".like") || !box.checked) return;
  for (const other of document.getElementsByName(box.name)) if (other !== box) /** @type {HTMLInputElement} */ (other).checked = false;
});

const search = /** @type {HTMLInputElement} */ (byId("find-flavour"));
search?.addEventListener("input", () => {
  const wanted = search.value.trim().toLowerCase();
  for (const plot of findAll(".plot")) {
    let shown = 0;
    for (const label of findAll("label", plot)) {
      const matches = label.textContent.includes(wanted) || label.querySelector("input").checked;
      label.hidden = !matches;
      if (matches) shown++;
    }
    plot.hidden = shown === 0;
  }
});

// When the cup has cooled to a stage, its words come up, unless some are being chosen.
const maxTimeout = 2 ** 31 - 1; // ms
for (const due of findAll("time[data-due]")) {
  const wait = Number(due.dataset.due) * 1000 - Date.now();
  if (wait < 0 || wait > maxTimeout) continue;
  setTimeout(() => {
    const line = byId("cooling");
    line.setAttribute("role", "status");
    line.textContent = `The cup is ${due.dataset.stage} by now: taste it again.`;
    document.title = `Taste it ${due.dataset.stage} · ${document.title}`;
    const stage = /** @type {HTMLInputElement} */ (byId(`stage-${due.dataset.stage}`));
    if (stage && !document.activeElement?.closest(".stage")) stage.checked = true;
  }, wait);
}
