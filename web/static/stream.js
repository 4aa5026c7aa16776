// A screen's stream is opened again where its first try found no server, and where it has
// gone quiet without an end. The library itself comes back only from a stream that was
// open and ended. This stands before the library, so as to see its first try.
"use strict";

const stream = { connection: null, trying: false, heard: 0 };
const quiet = 25000; // ms: the server says something at least every ten seconds
const live = document.querySelector("[hx-sse\\:connect]");

live?.addEventListener("htmx:before:request", () => { stream.trying = true; });
live?.addEventListener("htmx:finally:request", () => { stream.trying = false; });
// What is no stream is not for this screen: a sign-in, or a proxy that answers for the server.
live?.addEventListener("htmx:before:response", (e) => {
  const { raw } = e.detail.ctx.response;
  if (raw.headers.get("Content-Type")?.includes("text/event-stream")) return;
  e.preventDefault();
  if (raw.redirected) location.reload();
});
live?.addEventListener("htmx:sse:after:connection", (e) => {
  stream.connection = e.detail.connection;
  stream.heard = Date.now();
});
live?.addEventListener("htmx:sse:before:message", () => { stream.heard = Date.now(); });
live?.addEventListener("htmx:sse:close", () => { stream.connection = null; });

setInterval(() => {
  if (!live || stream.trying) return;
  if (!stream.connection) htmx.ajax("GET", live.getAttribute("hx-sse:connect"), { source: live });
  else if (Date.now() - stream.heard > quiet) {
    stream.heard = Date.now();
    stream.connection.reader?.cancel(); // the library opens it again
  }
}, 2000);
