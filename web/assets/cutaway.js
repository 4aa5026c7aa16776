/**
 * Draws one frame of a cutaway. After the last frame the drawing stays as it is.
 * @param {HTMLElement} cutaway
 * @param {number|string} index
 */
export function drawFrame(cutaway, index) {
  const frame = cutaway && JSON.parse(cutaway.dataset.frames)[index];
  if (!frame) return;
  const [water, top, height, crust, ice, ...words] = frame;
  /** @type {(css: string, name: string, value: string) => void} */
  const set = (css, name, value) => cutaway.querySelector(css).setAttribute(name, value);
  set(".cut-water", "d", water);
  set(".cut-crust", "d", crust);
  set(".cut-ice", "d", ice);
  set(".cut-coffee", "y", top);
  set(".cut-coffee", "height", height);
  cutaway.querySelectorAll(".cut-words").forEach((line, i) => { line.textContent = words[i]; });
}
