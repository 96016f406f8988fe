/* What a phone carries: styles and scripts, and the pages of the next three days, for where there is no signal. The server puts
   CARRIED (version and files) before this. Pages come from the network while there is one; entries are the queue's (queue.js). */
"use strict";

const FILES = "files", PAGES = "pages", WAITS_MS = 3000, MOST_PAGES = 120, CARRY_MS = 20 * 60e3;
const NOTHING = `<!doctype html><html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width">
<title>No signal · Amber Gable</title><h1>No signal, and this page is not on this phone.</h1>
<p>What you entered is kept and is sent when the signal is back. <a href="/today">My day</a> is on this phone.</p></html>`;

self.addEventListener("install", (event) => {
  event.waitUntil((async () => {
    const files = await caches.open(FILES);
    await Promise.all(self.CARRIED.files.map(async (file) => { if (await files.match(file)) return;
      const answer = await fetch(file);
      if (!is_ours(answer)) throw new TypeError(`${file} is not ours`);
      await files.put(file, answer); }));
    await self.skipWaiting();
  })());
});
self.addEventListener("activate", (event) => event.waitUntil(self.clients.claim()));

// A hotel's sign-in page is answered in place of ours: only what the application itself answered is kept, and counts as a signal.
const is_ours = (answer) => answer.ok && answer.headers.get("x-served-by") === "amber-gable";
// A redirected answer may not stand for a page: its body alone is kept.
const plain = async (answer) => (answer.redirected ? new Response(await answer.blob(), { headers: answer.headers }) : answer);
const store = async (address, answer) => {
  const pages = await caches.open(PAGES);
  try {
    await pages.put(address, await plain(answer));
  } catch (fault) {
    // An answer that broke off takes nothing with it; on a phone that is full the older half goes.
    if (fault?.name !== "QuotaExceededError") return;
    const kept = await pages.keys();
    await Promise.all(kept.slice(0, Math.ceil(kept.length / 2)).map((one) => pages.delete(one)));
    return;
  }
  const kept = await pages.keys();
  await Promise.all(kept.slice(0, Math.max(kept.length - MOST_PAGES, 0)).map((one) => pages.delete(one)));
};

const fileOf = async (request) => {
  const files = await caches.open(FILES), kept = await files.match(request);
  if (kept) return kept;
  const answer = await fetch(request);
  if (is_ours(answer)) await files.put(request, answer.clone()).catch(() => {});
  return answer;
};
/* Fail once there is no signal: a server that computes for a while still says what time it is. */
const lost = async (is_answered) => {
  while (!is_answered()) {
    await new Promise((go) => { setTimeout(go, WAITS_MS); });
    if (!is_answered() && !is_ours(await fetch("/signal", { cache: "no-store", signal: AbortSignal.timeout(WAITS_MS) }))) throw new TypeError("no signal");
  }
  return new Promise(() => {});
};
const pageOf = async (event) => {
  let is_answered = false;
  const asked = fetch(event.request).finally(() => { is_answered = true; });
  const kept = await (await caches.open(PAGES)).match(event.request.url);
  try {
    const answer = await (kept ? Promise.race([asked, lost(() => is_answered)]) : asked);
    // What is kept stands in for a stranger's answer; where nothing is, the stranger may ask for a sign-in.
    if (kept && answer.ok && answer.type !== "opaqueredirect" && !is_ours(answer)) return kept;
    if (is_ours(answer) && event.request.mode === "navigate") event.waitUntil(store(event.request.url, answer.clone()));
    return answer;
  } catch {
    asked.catch(() => {});
    return kept ?? new Response(NOTHING, { status: 503, headers: { "content-type": "text/html; charset=utf-8" } });
  }
};
self.addEventListener("fetch", (event) => {
  const address = new URL(event.request.url);
  if (event.request.method !== "GET" || address.origin !== self.location.origin) return;
  if (address.pathname.startsWith("/static/")) event.respondWith(fileOf(event.request));
  else if (event.request.mode === "navigate") event.respondWith(pageOf(event));
});

let carried_at = 0;
self.addEventListener("message", (event) => {
  if (!event.data?.carry) return;
  event.waitUntil((async () => {
    // A page that was on its way while the worker began is nobody's until somebody claims it.
    await self.clients.claim().catch(() => {});
    const pages = await caches.open(PAGES);
    if (Date.now() - carried_at > CARRY_MS) {
      try {
        const list = await (await fetch(event.data.carry, { headers: { accept: "application/json" } })).json();
        for (const address of list.pages) {
          const answer = await fetch(address);
          if (is_ours(answer)) await store(new URL(address, self.location.href).href, answer);
        }
        carried_at = Date.now();
      } catch { /* the signal went: what is kept stays */ }
    }
    event.source?.postMessage({ carried: (await pages.keys()).length });
  })());
});
