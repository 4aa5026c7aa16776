/**
 * Returns the element with an ID, or null.
 * @param {string} id
 */
export const byId = (id) => document.getElementById(id);

/**
 * Returns the first element that matches a selector, or null.
 * @param {string} css
 * @param {ParentNode} [within]
 * @returns {HTMLElement}
 */
export const find = (css, within = document) => within.querySelector(css);

/**
 * Returns all elements that match a selector.
 * @param {string} css
 * @param {ParentNode} [within]
 * @returns {HTMLElement[]}
 */
export const findAll = (css, within = document) => [...within.querySelectorAll(css)].map((e) => /** @type {HTMLElement} */ (e));

/**
 * Returns the element that an event is for.
 * @param {Event} e
 */
export const target = (e) => /** @type {HTMLElement} */ (e.target);

/**
 * Sets the text of an element if it differs.
 * @param {string} id
 * @param {string} text
 */
export function setText(id, text) {
  const element = byId(id);
  if (element && element.textContent !== text) element.textContent = text;
}

/**
 * Reports whether a key belongs to a field or to a browser shortcut, and not to the page.
 * @param {KeyboardEvent} e
 */
export const isTyping = (e) => e.altKey || e.ctrlKey || e.metaKey || Boolean(target(e).closest("input, select, textarea"));

/**
 * Moves the lines of the present moment in all ribbons and boards.
 * @param {number} t seconds since the start
 * @param {ParentNode} [within]
 */
export function moveNowLines(t, within = document) {
  for (const line of findAll("[data-now]", within)) {
    line.setAttribute("transform", `translate(${Number(line.dataset.from) + t * Number(line.dataset.perSecond)} 0)`);
  }
}
