// Reads recipes from QR codes with the camera, in browsers that can decode them, and copies texts.
import { byId, target } from "./dom.js";

document.addEventListener("click", async (e) => {
  const button = /** @type {HTMLElement} */ (target(e).closest("[data-copy]"));
  if (!button) return;
  const field = /** @type {HTMLTextAreaElement} */ (byId(button.dataset.copy));
  field.select();
  try {
    await navigator.clipboard.writeText(field.value); // over HTTP there is none: the text is selected
    button.textContent = button.dataset.done;
  } catch { /* a person copies the selection */ }
});

const start = byId("scan"), video = /** @type {HTMLVideoElement} */ (byId("scan-video"));

/** Stops the camera. */
function stop() {
  for (const track of /** @type {MediaStream} */ (video.srcObject)?.getTracks() ?? []) track.stop();
  video.srcObject = null;
  video.hidden = true;
}

/** Fills in the first code that carries a recipe. @param {BarcodeDetector} detector */
async function look(detector) {
  if (!video.srcObject) return;
  const codes = await detector.detect(video).catch(() => /** @type {{ rawValue: string }[]} */ ([]));
  const code = codes.map((c) => c.rawValue).find((text) => /^YARD[0-9]+:/i.test(text));
  if (!code) {
    setTimeout(() => look(detector), 150);
    return;
  }
  stop();
  const field = /** @type {HTMLTextAreaElement} */ (byId("text"));
  field.value = code;
  field.dispatchEvent(new Event("input", { bubbles: true }));
  byId("scan-says").textContent = start.dataset.read;
  find(field.form)?.focus();
}

/** The button that adds what was read. @param {HTMLFormElement} form */
const find = (form) => /** @type {HTMLElement} */ (form.querySelector(".actions .button"));

if (start && "BarcodeDetector" in window && navigator.mediaDevices) {
  start.hidden = false;
  start.addEventListener("click", async () => {
    if (video.srcObject) {
      stop();
      return;
    }
    try {
      video.srcObject = await navigator.mediaDevices.getUserMedia({ video: { facingMode: "environment" } });
      video.hidden = false;
      await video.play();
      look(new BarcodeDetector({ formats: ["qr_code"] }));
    } catch {
      stop();
      byId("scan-says").textContent = start.dataset.closed;
    }
  });
}
