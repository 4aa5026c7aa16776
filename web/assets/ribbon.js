// The measured line on a ribbon.

/**
 * Returns the path of the measured line. A line that was drawn by the server is replaced.
 * @param {HTMLElement} svg
 */
export function measuredLine(svg) {
  let line = svg.querySelector(".ribbon-trace");
  if (!line) {
    svg.querySelector(".ribbon-real")?.remove();
    line = document.createElementNS("http://www.w3.org/2000/svg", "path");
    line.setAttribute("class", "ribbon-real ribbon-trace");
    svg.append(line);
  }
  return line;
}

/**
 * Returns the next piece of a measured line: a move after a gap, else a line.
 * @param {{from: number, perSecond: number, floor: number, perGram: number}} scales
 * @param {number} t seconds since the start
 * @param {number} weight as on the ribbon
 * @param {boolean} gap
 */
export function piece(scales, t, weight, gap) {
  const x = scales.from + t * scales.perSecond, y = scales.floor - Math.max(0, weight) * scales.perGram;
  return `${gap ? "M" : "L"}${x.toFixed(1)} ${y.toFixed(1)}`;
}

/**
 * Extends the measured line of a ribbon to a point.
 * @param {HTMLElement} svg
 * @param {number} t seconds since the start
 * @param {number} weight as on the ribbon
 */
export function drawTo(svg, t, weight) {
  const line = measuredLine(svg), d = svg.dataset, path = line.getAttribute("d") ?? "";
  const scales = { from: Number(d.from), perSecond: Number(d.perSecond), floor: Number(d.floor), perGram: Number(d.perGram) };
  line.setAttribute("d", path + piece(scales, t, weight, path === "" || d.pen === "up"));
  d.pen = "down";
}
