// The service worker holds the pages of a brew, so that one goes on, or begins, without
// the server. Its first line, which the server puts in front, says where the files of this
// version are. Pages are asked of the server first; files of a version never change.
"use strict";

const pages = `pages ${STATIC}`, files = `files ${STATIC}`;
const held = /^\/brews\/[^/]+\/(brew|setup|recipe)$/;

self.addEventListener("install", (e) => {
  self.skipWaiting();
  // A stream goes past the worker and never waits for it to wake.
  e.waitUntil((async () => {
    try { await e.addRoutes?.({ condition: { urlPattern: "/*/live" }, source: "network" }); } catch { /* then it goes through */ }
  })());
});
self.addEventListener("activate", (e) => e.waitUntil((async () => {
  // What an older version held does not fit this one's files.
  for (const name of await caches.keys()) if (name !== pages && name !== files) await caches.delete(name);
  await self.clients.claim();
})()));

self.addEventListener("fetch", (e) => {
  const url = new URL(e.request.url);
  if (url.origin !== location.origin) return;
  if (e.request.method === "POST" && url.pathname === "/sign-out") e.waitUntil(caches.delete(pages));
  if (e.request.method !== "GET") return;
  if (url.pathname.startsWith(STATIC)) e.respondWith(file(e.request));
  else if (e.request.mode === "navigate") e.respondWith(page(e.request, url));
});

async function file(request) {
  const cache = await caches.open(files), kept = await cache.match(request);
  if (kept) return kept;
  const answer = await fetch(request);
  if (answer.ok) await cache.put(request, answer.clone());
  return answer;
}

async function page(request, url) {
  const cache = await caches.open(pages), kept = held.test(url.pathname) ? await cache.match(url.pathname) : undefined;
  try {
    const answer = await fetch(request, kept ? { signal: AbortSignal.timeout(4000) } : {});
    if (kept && answer.status >= 500) return kept;
    // The Brew station keeps itself, with its clock.
    if (answer.ok && !answer.redirected && held.test(url.pathname) && !url.pathname.endsWith("/brew")) await cache.put(url.pathname, answer.clone());
    return answer;
  } catch {
    return kept ?? new Response(`<!doctype html><html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>No server · Yard Bloom</title>
<h1>The yard does not answer</h1><p>What you tapped on this device is kept and will be sent. Go back to the brew, or load this page again in a moment.</p></html>`, { status: 503, headers: { "Content-Type": "text/html; charset=utf-8" } });
  }
}
