// The service worker keeps pages, so that they can be read, and brews can begin or go on, without the server.
// The server prepends the folder of this version's static files, which never change. Pages are
// requested from the server first.
"use strict";

const pages = `pages ${STATIC}`, files = `files ${STATIC}`;
const readable = /^\/($|book$|glossary$|keys$|log$|offline$|offline\/cup$|bags\/[^/]+$|brews\/[^/]+(\/(brew|setup|recipe|ready|card|cup|next))?$)/;

const worker = /** @type {any} */ (self);

worker.addEventListener("install", (/** @type {any} */ e) => {
  worker.skipWaiting();
  // Streams bypass the worker and do not wait for its start.
  e.waitUntil((async () => {
    try { await e.addRoutes?.({ condition: { urlPattern: "/*/live" }, source: "network" }); } catch { /* not supported */ }
  })());
});
worker.addEventListener("activate", (/** @type {any} */ e) => e.waitUntil((async () => {
  await removeOlder();
  await worker.clients.claim();
})()));

/** Removes the caches of older versions: their pages do not match the files of this one. */
async function removeOlder() {
  for (const name of await caches.keys()) if (name !== pages && name !== files) await caches.delete(name);
}

worker.addEventListener("message", (/** @type {any} */ e) => {
  if (e.data === "keep") e.waitUntil(keep());
  if (e.data === "take over") e.waitUntil(worker.skipWaiting());
});

worker.addEventListener("fetch", (/** @type {any} */ e) => {
  const url = new URL(e.request.url);
  if (url.origin !== location.origin) return;
  if (e.request.method === "POST" && url.pathname === "/sign-out") e.waitUntil(caches.delete(pages));
  if (e.request.method === "POST" && e.request.mode === "navigate") e.respondWith(fetch(e.request).catch(() => instead(url)));
  if (e.request.method !== "GET") return;
  if (url.pathname.startsWith(STATIC)) e.respondWith(file(e.request));
  else if (e.request.mode === "navigate") e.respondWith(page(e.request, url));
});

/** @param {Request | string} request @param {RequestInit} options */
async function file(request, options = {}) {
  const cache = await caches.open(files), found = await cache.match(request);
  if (found) return found;
  const answer = await fetch(request, options);
  if (answer.ok) await cache.put(request, answer.clone()).catch(() => { /* the storage is full */ });
  return answer;
}

/** @param {Request} request @param {URL} url */
async function page(request, url) {
  const cache = await caches.open(pages), found = readable.test(url.pathname) ? await cache.match(url.pathname) : undefined;
  try {
    const answer = await fetch(request, found ? { signal: AbortSignal.timeout(4000) } : {});
    if (answer.headers.get("Yard-Sign-In")) await caches.delete(pages); // this device is signed out; taps that wait stay
    if (found && answer.status >= 500) return found;
    // The Brew station stores itself, with its clock.
    if (readable.test(url.pathname) && !url.search && !url.pathname.endsWith("/brew")) await store(cache, url.pathname, answer.clone(), "");
    return answer;
  } catch {
    return found ?? instead(url);
  }
}

/**
 * Stores a page, with the time, so that it can say that it is not the present one.
 * @param {Cache} cache @param {string} path @param {Response} answer @param {string} tag of the list of pages to keep
 */
async function store(cache, path, answer, tag) {
  if (!answer.ok || answer.redirected || answer.headers.get("Yard-Sign-In") || !answer.headers.get("Content-Type")?.startsWith("text/html")) return;
  const text = (await answer.text()).replace("<body ", `<body data-kept="${Date.now()}" `);
  await cache.put(path, new Response(text, { headers: { "Content-Type": "text/html; charset=utf-8", "Yard-Tag": tag } }))
    .catch(() => { /* the storage is full */ });
}

/** Returns the fallback for a page that is not stored. @param {URL} url */
async function instead(url) {
  const cache = await caches.open(pages);
  const found = await cache.match(/^\/brews\/[^/]+\/cup$/.test(url.pathname) ? "/offline/cup" : "/offline");
  return found ?? new Response(`<!doctype html><html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>No server · Yard Bloom</title>
<h1>The yard does not answer</h1><p>What you tapped on this device is kept and will be sent. Go back to the brew, or load this page again in a moment.</p></html>`, { status: 503, headers: { "Content-Type": "text/html; charset=utf-8" } });
}

/** @type {AbortController | null} */
let keeping = null; // stops the present run
let kept = 0; // when the last run ended
const rest = 30_000; // ms between two runs

// The browser replaces this worker once it is idle, so a run ends when a newer version is found.
worker.registration.addEventListener("updatefound", () => keeping?.abort());

/** Keeps the pages of the server's list that changed, one after the other. */
async function keep() {
  const { waiting, installing } = worker.registration;
  waiting?.postMessage("take over"); // a page has woken this worker after the browser had stopped it for the newer one
  if (keeping || Date.now() - kept < rest || waiting || installing) return;
  keeping = new AbortController();
  const { signal } = keeping;
  try {
    await removeOlder(); // a page of an older version that was still open may have stored itself
    const answer = await fetch("/offline.json", { signal });
    if (!answer.ok || answer.redirected) return;
    const list = await answer.json(), cache = await caches.open(pages);
    for (const { url, tag } of list.pages) {
      const found = await cache.match(url);
      if (found?.headers.get("Yard-Tag") === tag) continue;
      if (url.endsWith("/brew") && found) continue; // it stores itself, with its clock
      const fresh = await fetch(url, { signal });
      if (fresh.status >= 500) return;
      await store(cache, url, fresh, tag);
    }
    for (const url of list.files) await file(url, { signal });
    kept = Date.now();
  } catch { /* the server is away, or the storage is full: the next page tries again */ } finally {
    keeping = null;
  }
}
