// The service worker stores the pages of a brew, so that it can begin or go on without the server.
// The server prepends the folder of this version's static files, which never change. Pages are
// requested from the server first.
"use strict";

const pages = `pages ${STATIC}`, files = `files ${STATIC}`;
const held = /^\/brews\/[^/]+\/(brew|setup|recipe)$/;

const worker = /** @type {any} */ (self);

worker.addEventListener("install", (/** @type {any} */ e) => {
  worker.skipWaiting();
  // Streams bypass the worker and do not wait for its start.
  e.waitUntil((async () => {
    try { await e.addRoutes?.({ condition: { urlPattern: "/*/live" }, source: "network" }); } catch { /* not supported */ }
  })());
});
worker.addEventListener("activate", (/** @type {any} */ e) => e.waitUntil((async () => {
  // Pages of an older version do not match the files of this one.
  for (const name of await caches.keys()) if (name !== pages && name !== files) await caches.delete(name);
  await worker.clients.claim();
})()));

worker.addEventListener("fetch", (/** @type {any} */ e) => {
  const url = new URL(e.request.url);
  if (url.origin !== location.origin) return;
  if (e.request.method === "POST" && url.pathname === "/sign-out") e.waitUntil(caches.delete(pages));
  if (e.request.method !== "GET") return;
  if (url.pathname.startsWith(STATIC)) e.respondWith(file(e.request));
  else if (e.request.mode === "navigate") e.respondWith(page(e.request, url));
});

/** @param {Request} request */
async function file(request) {
  const cache = await caches.open(files), kept = await cache.match(request);
  if (kept) return kept;
  const answer = await fetch(request);
  if (answer.ok) await cache.put(request, answer.clone());
  return answer;
}

/** @param {Request} request @param {URL} url */
async function page(request, url) {
  const cache = await caches.open(pages), kept = held.test(url.pathname) ? await cache.match(url.pathname) : undefined;
  try {
    const answer = await fetch(request, kept ? { signal: AbortSignal.timeout(4000) } : {});
    if (answer.headers.get("Yard-Sign-In")) await caches.delete(pages); // this device is signed out; taps that wait stay
    if (kept && answer.status >= 500) return kept;
    // The Brew station stores itself, with its clock.
    if (answer.ok && !answer.redirected && held.test(url.pathname) && !url.pathname.endsWith("/brew")) await cache.put(url.pathname, answer.clone());
    return answer;
  } catch {
    return kept ?? new Response(`<!doctype html><html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>No server · Yard Bloom</title>
<h1>The yard does not answer</h1><p>What you tapped on this device is kept and will be sent. Go back to the brew, or load this page again in a moment.</p></html>`, { status: 503, headers: { "Content-Type": "text/html; charset=utf-8" } });
  }
}
