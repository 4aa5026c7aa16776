// The Cup station: the picture of the bed, notes to find, and a word when the cup has cooled
// to its next stage. No rule of the job is here.
"use strict";

(() => {
  const looks = ["", "high", "low", "dry", "muddy"];

  // tap takes a place of the bed on to its next look.
  function tap(zone) {
    const input = document.querySelector(`input[name="spot.${zone.dataset.place}"]`);
    const look = looks[(looks.indexOf(input.value) + 1) % looks.length];
    input.value = look;
    zone.setAttribute("class", `zone ${look}`);
    zone.setAttribute("aria-label", `${zone.dataset.name}: ${look || "even"}`);
    zone.querySelector("text").textContent = look;
  }

  const bed = document.querySelector(".bed");
  bed?.addEventListener("click", (e) => {
    const zone = e.target.closest(".zone");
    if (zone) tap(zone);
  });
  bed?.addEventListener("keydown", (e) => {
    const zone = e.target.closest(".zone");
    if (!zone || (e.key !== " " && e.key !== "Enter")) return;
    e.preventDefault();
    tap(zone);
  });

  // Of two likes of one sense only one stands.
  document.querySelector(".cupform")?.addEventListener("change", (e) => {
    if (!e.target.name?.endsWith(".like") || !e.target.checked) return;
    for (const other of document.getElementsByName(e.target.name)) if (other !== e.target) other.checked = false;
  });

  const find = document.getElementById("find-flavour");
  find?.addEventListener("input", () => {
    const wanted = find.value.trim().toLowerCase();
    for (const plot of document.querySelectorAll(".plot")) {
      let shown = 0;
      for (const label of plot.querySelectorAll("label")) {
        const fits = label.textContent.includes(wanted) || label.querySelector("input").checked;
        label.hidden = !fits;
        if (fits) shown++;
      }
      plot.hidden = shown === 0;
    }
  });

  // The cup has cooled to a stage: its words come up, unless some are being chosen, and it is said.
  for (const due of document.querySelectorAll("time[data-due]")) {
    const wait = Number(due.dataset.due) * 1000 - Date.now();
    if (wait < 0 || wait > 2 ** 31 - 1) continue;
    setTimeout(() => {
      const line = document.getElementById("cooling");
      line.setAttribute("role", "status");
      line.textContent = `The cup is ${due.dataset.stage} by now: taste it again.`;
      document.title = `Taste it ${due.dataset.stage} · ${document.title}`;
      const stage = document.getElementById(`stage-${due.dataset.stage}`);
      if (stage && !document.activeElement?.closest(".stage")) stage.checked = true;
    }, wait);
  }
})();
