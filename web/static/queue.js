// A queue of actions that waits on this device until the app has answered. It survives reloads and closed pages.
// Only an answer with the key of the action counts: a proxy or a captive portal may answer in the app's place.

/**
 * @typedef {object} Entry
 * @property {string} key makes the action count once however often it is sent
 * @property {string} url
 * @property {Record<string, string | string[]>} body
 * @property {number} made wall clock, ms
 * @property {string} [id] of the brew
 * @property {string} [says] the action in words, for a message about it
 * @property {string} [refused] why the app refused it
 */
/**
 * @typedef {object} Options
 * @property {Storage} storage
 * @property {(url: string, init: RequestInit) => Promise<Response>} fetch
 * @property {(ms: number) => Promise<void>} wait
 * @property {() => number} now wall clock, ms
 * @property {(entry: Entry, text: string) => void} sent called for each action that the app took
 * @property {() => void} changed called after every change of the queue
 * @property {(why: string) => void} failed called for each attempt without an answer of the app
 * @property {() => void} signedOut called if the app asks for the password
 */

/** Returns the values of a form, a list as repeated names. @param {Record<string, string | string[]>} body */
const paramsOf = (body) => new URLSearchParams(Object.entries(body).flatMap(([name, v]) => [v].flat().map((one) => [name, one])));

const prefix = "tap ";
const requestTimeout = 4000; // ms, for the head and the body of an answer
const firstDelay = 700, lastDelay = 10_000; // ms between attempts

// Statuses of the app by which an action may still succeed: it waits for a resource, or is asked to slow down.
const passing = [408, 425, 429];

export class Queue {
  /** @type {Entry[]} */ entries = [];
  sending = false;
  attempts = 0;

  /** @param {Options} options */
  constructor(options) {
    this.options = options;
    this.entries = this.#stored();
  }

  /** Actions that wait to be sent, in order. */
  get waiting() { return this.entries.filter((e) => !e.refused); }

  /** Actions that the app refused, until a person dismisses them. */
  get refused() { return this.entries.filter((e) => e.refused); }

  /** @param {Entry} entry */
  add(entry) {
    this.entries.push(entry);
    this.#store(entry);
    this.options.changed();
    return this.send();
  }

  /** Forgets an action. @param {string} key */
  dismiss(key) {
    this.entries = this.entries.filter((e) => e.key !== key);
    try { this.options.storage.removeItem(prefix + key); } catch { /* it was not stored */ }
    this.options.changed();
  }

  /** Sends a refused action again. @param {string} key */
  again(key) {
    const entry = this.entries.find((e) => e.key === key);
    if (!entry) return undefined;
    delete entry.refused;
    this.#store(entry);
    this.options.changed();
    return this.send();
  }

  /** Sends what waits, one action at a time. It returns when nothing waits. */
  async send() {
    if (this.sending) return;
    this.sending = true;
    try {
      while (this.waiting.length && await this.#sendOne(this.waiting[0]));
    } finally {
      this.sending = false;
    }
  }

  /** Sends one action; false if the page must sign in first. @param {Entry} entry */
  async #sendOne(entry) {
    let answer, text;
    try {
      const ago = Math.max(0, (this.options.now() - entry.made) / 1000).toFixed(2);
      answer = await this.options.fetch(entry.url, { method: "POST", headers: { "HX-Request": "true", "Yard-Key": entry.key },
        body: paramsOf({ ...entry.body, key: entry.key, ago }), signal: AbortSignal.timeout(requestTimeout) });
      text = await answer.text();
    } catch {
      return this.#again("The server does not answer.");
    }
    const ours = answer.headers.get("Yard-Answer") === entry.key;
    if (answer.redirected && ours && new URL(answer.url).pathname === "/sign-in") { this.options.signedOut(); return false; }
    if (!ours) return this.#again(`Something else answered for the server (${answer.status}).`);
    if (answer.ok) {
      this.attempts = 0;
      this.dismiss(entry.key);
      this.options.sent(entry, text);
      return true;
    }
    if (answer.status >= 500 || passing.includes(answer.status)) return this.#again(`The server could not store it (${answer.status}).`);
    this.attempts = 0;
    entry.refused = decodeURIComponent(answer.headers.get("Yard-Reason") ?? "") || `The server refused it (${answer.status}).`;
    this.#store(entry);
    this.options.changed();
    return true;
  }

  /** Waits before the next attempt, longer each time. @param {string} why */
  async #again(why) {
    this.options.failed(why);
    await this.options.wait(Math.min(lastDelay, firstDelay * 2 ** this.attempts++));
    return true;
  }

  /** @param {Entry} entry */
  #store(entry) {
    try { this.options.storage.setItem(prefix + entry.key, JSON.stringify(entry)); } catch { /* storage is unavailable or full */ }
  }

  /** The actions of a closed page or another tab. Each has its own item, so that tabs do not overwrite each other's. */
  #stored() {
    try {
      const { storage } = this.options;
      const keys = Array.from({ length: storage.length }, (_, i) => storage.key(i)).filter((k) => k.startsWith(prefix));
      return keys.map((k) => /** @type {Entry} */ (JSON.parse(storage.getItem(k)))).filter((e) => e?.key && e.url)
        .sort((a, b) => a.made - b.made);
    } catch { return []; }
  }
}

/**
 * Returns the queue of this device. It shows refused actions in the element "refused", each until it is dismissed, and
 * sends what waits when the device is online again.
 * @param {object} on
 * @param {(entry: Entry, text: string) => void} on.sent
 * @param {(why: string, waiting: number) => void} on.failed
 * @param {(refused: Entry[]) => void} on.refused called when an action is refused
 */
export function browserQueue({ sent, failed, refused }) {
  let known = new Set();
  const queue = new Queue({
    storage: localStorage, fetch: (url, init) => fetch(url, init), now: () => Date.now(),
    wait: (ms) => new Promise((resolve) => { setTimeout(resolve, ms); }),
    sent, signedOut: () => location.reload(),
    failed: (why) => failed(why, queue.waiting.length),
    changed: () => {
      showRefused(queue);
      const fresh = queue.refused.filter((e) => !known.has(e.key));
      known = new Set(queue.refused.map((e) => e.key));
      if (fresh.length) refused(fresh);
    },
  });
  known = new Set(queue.refused.map((e) => e.key));
  showRefused(queue);
  window.addEventListener("online", () => { queue.send(); });
  return queue;
}

/** @param {Queue} queue */
export function showRefused(queue) {
  document.getElementById("refused")?.replaceChildren(...queue.refused.map((e) => {
    const line = document.createElement("p");
    line.className = "notice notice-wrong";
    line.append(`Not counted: ${e.says}. ${e.refused} `, smallButton("OK", () => queue.dismiss(e.key)),
      " ", smallButton("Send again", () => queue.again(e.key)));
    return line;
  }));
}

/**
 * @param {string} label
 * @param {() => void} press
 */
function smallButton(label, press) {
  const button = document.createElement("button");
  button.className = "button small";
  button.textContent = label;
  button.addEventListener("click", press);
  return button;
}

/** Returns a new key. */
export const newKey = () => crypto.randomUUID?.() ?? `${Date.now()}-${Math.random()}`;
