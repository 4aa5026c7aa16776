/**
 * Stores a page on this device, for when the server cannot be reached.
 * @param {string} path
 * @param {string} text
 */
export async function storePage(path, text) {
  try {
    const sheet = /** @type {HTMLLinkElement} */ (document.querySelector('link[rel="stylesheet"]'));
    const cache = await caches.open(`pages ${new URL(sheet.href).pathname.replace(/[^/]*$/, "")}`);
    await cache.put(path, new Response(text, { headers: { "Content-Type": "text/html; charset=utf-8" } }));
  } catch { /* there is no cache, or it is full */ }
}
