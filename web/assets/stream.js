// Reopens the stream of a screen when its first request failed or when it went quiet. htmx reopens
// only streams that were open and ended. This script precedes htmx so that it sees the first
// request.

/** @type {{connection: any, requesting: boolean, heard: number}} */
const stream = { connection: null, requesting: false, heard: 0 };
const quiet = 25000; // ms; the server sends a heartbeat every 10 s
const checkEvery = 2000; // ms
const live = document.querySelector("[hx-sse\\:connect]");

live?.addEventListener("htmx:before:request", () => { stream.requesting = true; });
live?.addEventListener("htmx:finally:request", () => { stream.requesting = false; });
// A response that is no stream comes from the sign-in or from a proxy.
live?.addEventListener("htmx:before:response", (/** @type {CustomEvent} */ e) => {
  const { raw } = e.detail.ctx.response;
  if (raw.headers.get("Content-Type")?.includes("text/event-stream")) return;
  e.preventDefault();
  if (raw.redirected) location.reload();
  const line = document.getElementById("said"), reason = raw.headers.get("Yard-Reason");
  if (line && reason) {
    line.textContent = decodeURIComponent(reason);
    line.classList.add("lost");
  }
});
live?.addEventListener("htmx:sse:after:connection", (/** @type {CustomEvent} */ e) => {
  stream.connection = e.detail.connection;
  stream.heard = Date.now();
});
live?.addEventListener("htmx:sse:before:message", () => { stream.heard = Date.now(); });
live?.addEventListener("htmx:sse:close", () => { stream.connection = null; });

setInterval(() => {
  if (!live || stream.requesting) return;
  if (!stream.connection) window.htmx.ajax("GET", live.getAttribute("hx-sse:connect"), { source: live });
  else if (Date.now() - stream.heard > quiet) {
    stream.heard = Date.now();
    stream.connection.reader?.cancel(); // htmx reopens it
  }
}, checkEvery);
