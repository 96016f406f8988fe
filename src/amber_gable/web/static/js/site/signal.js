/* The signal: its line below the bar, what waits on pages that do not know of it, the pages that a phone carries. Entries are kept by
   log.js and sent by queue.js; a page that is older than what was sent says so. */
(() => {
  "use strict";

  const queue = window.amberQueue;
  const PING_MS = 4000, AGAIN_MS = 15000, LATE_MS = 90000;
  const head = (name) => document.querySelector(`meta[name="${name}"]`)?.content ?? "";
  const shown_at = Date.parse(head("shown-at")), version = head("app-version"), holder = head("holder");
  const opened_at = Date.now();
  let is_lost = false, is_old = "", goes_on = false;

  /* What was on its way, or only jotted down, when its page was left waits again: nobody is there any more to hear its answer. */
  const adopt = async () => {
    await queue.takeUp().catch(() => {});
    const open = await queue.pages();
    for (const entry of await queue.all()) {
      if (!entry.is_on_its_way || open?.has(entry.is_on_its_way)) continue;
      if (open || Date.now() - entry.at > AGAIN_MS) await queue.answered(entry.id, { is_on_its_way: false });
      else setTimeout(ping, AGAIN_MS);
    }
  };

  // -- The line of the signal -------------------------------------------------------------------------------------------------------
  const clock = (moment) => new Date(moment).toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit", timeZone: head("zone") || undefined });
  const lost = () => {
    if (is_lost) return;
    is_lost = true;
    const at = queue.told().at;
    sessionStorage.lost ??= String(at || shown_at);
    show();
  };
  const element = (tag, text, properties = {}) => Object.assign(document.createElement(tag), { textContent: text }, properties);
  const show = async () => {
    const place = document.getElementById("signal");
    if (!place) return;
    let entries = [];
    try { entries = await queue.all(); } catch { /* a browser that keeps nothing */ }
    const is_waiting = (one) => one.state === "waiting" && !one.is_on_its_way, is_own = (one) => one.person === holder;
    const waiting = entries.filter((one) => is_waiting(one) && is_own(one));
    const refused = entries.filter((one) => one.state === "refused" && is_own(one));
    const others = entries.filter((one) => !is_own(one) && (is_waiting(one) || one.state === "refused"));
    const parts = [];
    if (is_lost) parts.push(`No signal since ${clock(Number(sessionStorage.lost))}`);
    if (waiting.length) parts.push(waiting.length === 1 ? "1 entry waits" : `${waiting.length} entries wait`);
    if (refused.length) parts.push(refused.length === 1 ? "1 entry was refused" : `${refused.length} entries were refused`);
    for (const name of new Set(others.map((one) => one.person))) {
      const count = others.filter((one) => one.person === name).length;
      parts.push(`${count} of ${name || "the office"} ${count === 1 ? "waits" : "wait"} here`);
    }
    const is_of_then = is_lost && Math.abs(Number(sessionStorage.lost) - shown_at) < LATE_MS;
    if ((is_lost && !is_of_then) || is_old === "late") parts.push(`page of ${clock(shown_at)}`);
    if (is_old === "version") parts.push("a newer version is here: load the page again");
    place.hidden = !parts.length;
    place.querySelector("summary").textContent = parts.join(" · ");
    place.classList.toggle("is-refused", refused.length > 0);
    const list = place.querySelector("ul");
    list.replaceChildren(...[...refused, ...waiting].map(lineOf));
    if (waiting.length && !(await window.amberStore.persist())) {
      list.append(element("li", "This browser may throw away what waits when the phone is short of room, or after weeks without a visit: open this page where there is a signal soon."));
    }
    overlay(entries);
  };
  const UNTYPED = ["tasks", "back", "entry", "planned_from", "planned_until"];
  const lineOf = (entry) => {
    const line = document.createElement("li");
    const state = entry.state === "waiting" ? "waiting to be sent" : entry.said;
    line.append(element("strong", entry.words), element("span", ` ${clock(entry.made_at)}, ${state}`));
    if (entry.state === "refused") {
      const typed = entry.fields.filter(([name, value]) => value && !UNTYPED.includes(name));
      line.append(element("small", typed.map(([name, value]) => `${name.replaceAll("_", " ")}: ${value}`).join(" · ")));
      const again = element("button", "Send again", { type: "button", className: "btn btn-quiet" });
      again.addEventListener("click", () => queue.answered(entry.id, { state: "waiting", said: "" }).then(queue.flush));
      const forget = element("button", "Throw away", { type: "button", className: "btn btn-quiet" });
      forget.addEventListener("click", () => { if (confirm("Throw this entry away? The server has not got it.")) queue.forget(entry.id).then(show); });
      line.append(again, forget);
    }
    return line;
  };

  // -- What waits, on pages that do not know of it ------------------------------------------------------------------------------------
  const VERBS = { began: "Begun", done: "Done", pause: "Paused" };
  const overlay = (entries) => {
    const is_news = (one) => one.state === "waiting" || (one.state === "sent" && Date.parse(one.answered_at) > shown_at);
    const news = entries.filter((one) => one.piece && !one.is_on_its_way && is_news(one));
    for (const place of document.querySelectorAll("[data-of-piece]")) {
      const own = news.filter((one) => one.piece === place.dataset.ofPiece);
      const last = own.filter((one) => ["began", "done", "pause"].includes(one.verb)).at(-1);
      place.dataset.waits = last?.verb ?? "";
      const line = place.querySelector("[data-waits-line]");
      const way = last?.state === "sent" ? "sent" : "waiting to be sent";
      if (line) line.textContent = last ? `${VERBS[last.verb]} ${clock(last.made_at)}, ${way}.` : "";
    }
    document.dispatchEvent(new CustomEvent("queue:overlaid"));
  };

  // A page that is being left does not load itself again: that would break off the way to the next one.
  const LEAVES_MS = 20000;
  let left_at = 0;
  window.addEventListener("beforeunload", () => { left_at = Date.now(); });
  window.addEventListener("pageshow", () => { left_at = 0; });
  const isLeft = () => Date.now() - left_at < LEAVES_MS;

  /* Show the page as the server now has it, unless somebody is typing in it. */
  const anew = () => {
    if (isLeft()) return;
    const is_typing = document.querySelector("main details[open] form[data-log], form[data-sending], form[data-log] :focus:not(button)");
    if (!goes_on && !is_typing && document.querySelector("[data-of-piece], form[data-log]")) location.reload();
  };

  // -- The signal itself ---------------------------------------------------------------------------------------------------------------
  const ping = async () => {
    let said;
    try {
      said = await queue.ask(PING_MS);
    } catch {
      lost();
      adopt().catch(() => {});
      return;
    }
    const was_lost = is_lost;
    is_lost = false;
    delete sessionStorage.lost;
    // Its clock as it was before tells whether this device's was set meanwhile: what waits is sent with that first.
    await adopt();
    await queue.hear(said);
    const is_all_sent = await queue.flush();
    queue.believe(said);
    const is_late = said.at - shown_at - (Date.now() - opened_at) > LATE_MS;
    is_old = version && said.version !== version ? "version" : is_late ? "late" : "";
    await show();
    if (was_lost && is_all_sent) anew();
  };
  const carry = async () => {
    if (!holder || !("serviceWorker" in navigator)) return;
    try {
      await navigator.serviceWorker.register("/worker.js");
      const ready = await navigator.serviceWorker.ready;
      ready.active?.postMessage({ carry: "/today/carried" });
    } catch { /* without HTTPS, or a browser without it: the queue works all the same */ }
  };
  navigator.serviceWorker?.addEventListener("message", (event) => {
    const place = document.querySelector("[data-carried]");
    if (place && event.data?.carried) place.textContent = `${event.data.carried} pages of the next three days are on this phone.`;
  });

  document.addEventListener("queue:changed", show);
  document.addEventListener("queue:sent", anew);
  window.addEventListener("online", ping);
  window.addEventListener("offline", lost);
  document.addEventListener("visibilitychange", () => { if (!document.hidden) ping(); });
  document.addEventListener("DOMContentLoaded", () => { adopt().catch(() => {}).then(show); ping(); carry(); });
  setInterval(() => { if (is_lost) ping(); }, AGAIN_MS);

  window.amberSignal = { lost, show, say: window.amberSay, isLeft, goesOn: (will) => { goes_on = will; } };
})();
