/* Entries of the log on their way. An entry is kept on this device first (store.js) and sent then: it survives a lost signal, a closed
   browser, a flat battery. It counts as delivered when the server has answered with its id and the digest of what it kept, and by nothing
   else: a hotel's sign-in page answers too. */
(() => {
  "use strict";

  const store = window.amberStore;
  const DAYS_SHOWN = 3, SEND_MS = 15000, BUSY_S = 5;
  // What goes along with an entry and is no part of what it says (web/door/formroute.py).
  const BESIDE = ["form_key", "made_at", "made_by"];

  const fresh = () => [...crypto.getRandomValues(new Uint8Array(16))].map((byte) => byte.toString(16).padStart(2, "0")).join("");

  // Each page holds a lock of its own name as long as it is open: an entry that is on its way belongs to a page, or to none any more.
  const page = `page ${fresh()}`;
  navigator.locks?.request(page, () => new Promise(() => {}));
  const pages = async () => navigator.locks && new Set((await navigator.locks.query()).held.map((lock) => lock.name));

  // The server's clock as it was when there last was a signal: this device's own may be wrong by hours.
  const told = () => JSON.parse(localStorage.getItem("signal") ?? "null") ?? { offset_ms: 0, version: "", at: 0 };
  const serverNow = () => new Date(Date.now() + told().offset_ms);

  // By how much the clock has jumped since this page was opened: it was set meanwhile, or the device slept.
  const skew = () => Date.now() - performance.timeOrigin - performance.now();

  /* Return the digest of an entry as the server reckons it: address and content as JSON, lines ending alike, files by their own digest. */
  const digestOf = async (entry) => {
    const content = entry.fields.filter(([name]) => !BESIDE.includes(name)).map(([name, value]) => [name, value.replace(/\r\n?/g, "\n")]);
    for (const file of entry.files ?? []) content.push([file.name, window.sha256(await file.blob.arrayBuffer())]);
    return window.sha256(JSON.stringify([new URL(entry.path, location.href).pathname, content]));
  };

  // What is being kept is jotted down in the moment of the act: the page may load itself, or be closed, before the store has it.
  const JOTTED = "act ";
  const jot = (whole) => {
    try { if (!whole.files) localStorage.setItem(JOTTED + whole.id, JSON.stringify({ by: page, whole })); } catch { /* no room; the store may have some */ }
  };
  /* Take into the store what pages jotted down that are gone. */
  const takeUp = async () => {
    const open = await pages(), there = new Set((await store.all()).map((one) => one.id));
    for (const key of Object.keys(localStorage).filter((one) => one.startsWith(JOTTED))) {
      const { by, whole } = JSON.parse(localStorage.getItem(key)) ?? {};
      if (!whole || (open ? open.has(by) : Date.now() - whole.at < SEND_MS)) continue;
      if (!there.has(whole.id)) await store.add(whole);
      localStorage.removeItem(key);
    }
  };
  /* Keep an entry. A device that is full gives up the pages it carries first; where it still cannot, the caller hears of it. */
  const keep = async (entry) => {
    const { offset_ms, at } = told(), read_by = { offset_ms, at, skew_ms: skew() };
    const whole = { ...entry, at: Date.now(), read_by, made_at: serverNow().toISOString(), state: "waiting", said: "", answered_at: "" };
    jot(whole);
    try {
      await store.add(whole).catch(async () => {
        await window.caches?.delete("pages");
        await store.add(whole);
      });
    } finally {
      localStorage.removeItem(JOTTED + whole.id);
    }
    store.persist();
    announce();
    return whole;
  };

  const messages = (html) => {
    const page = new DOMParser().parseFromString(html, "text/html");
    const said = [...page.querySelectorAll(".field-error, [data-field]")].map((one) => one.textContent.trim()).filter(Boolean);
    return said.join(" ") || page.body.textContent.trim().slice(0, 300);
  };

  /* Return in words what the server has under the id of an entry that says something else. */
  const theirs = (text) => {
    try {
      const { error, kept } = JSON.parse(text);
      return `${error} On the server: ${kept.filter(([, value]) => value).map(([name, value]) => `${name.replaceAll("_", " ")}: ${value}`).join(" · ")}`;
    } catch {
      return messages(text);
    }
  };

  /* Return what an answer says of an entry: "kept", "refused", "other" (the server has another under its id), or "" where it is not the
     server's word on this entry. */
  const verdict = async (entry, header) => {
    if (header("x-entry") !== entry.id) return "";
    const state = header("x-entry-state");
    return state === "kept" && header("x-entry-digest") !== (await digestOf(entry)) ? "other" : state ?? "";
  };

  const bodyOf = (entry) => {
    const body = entry.files ? new FormData() : new URLSearchParams();
    for (const [name, value] of entry.fields) body.append(name, value);
    body.append("made_at", entry.made_at);
    if (entry.person) body.append("made_by", entry.person);
    for (const file of entry.files ?? []) body.append(file.name, file.blob, "photo.jpg");
    return body;
  };
  /* Send one entry; return after how many seconds to go on where the server did not take it, 0 where it has answered, null without a signal. */
  const send = async (entry) => {
    // What the phone took for now by the clock that the act's hour was read by: the server notes by how much that was off.
    const now = new Date(Date.now() + (entry.read_by ?? told()).offset_ms).toISOString(), headers = { "HX-Request": "true", "X-Phone-Now": now };
    if (!entry.is_earlier) headers["X-Entry"] = entry.id;
    let answer;
    try {
      const signal = AbortSignal.timeout(entry.files ? 4 * SEND_MS : SEND_MS);
      answer = await fetch(entry.path, { method: "POST", body: bodyOf(entry), headers, signal, redirect: "error" });
    } catch {
      return null;
    }
    const state = entry.is_earlier ? (answer.ok ? "kept" : answer.status < 500 ? "refused" : "") : await verdict(entry, (name) => answer.headers.get(name));
    if (state === "kept") await store.note(entry.id, { state: "sent", answered_at: serverNow().toISOString(), files: undefined });
    else if (state) {
      const text = await answer.text();
      await store.note(entry.id, { state: "refused", said: (state === "other" ? theirs(text) : messages(text)) || `Refused (${answer.status}).` });
    } else return answer.status === 503 ? Number(answer.headers.get("retry-after")) || BUSY_S : null;
    return 0;
  };

  const isUnheard = (one) => one.state === "waiting" && !one.is_heard && one.made_at;
  /* Hours as they are now that the server has said what time it is, `said`: each waiting act is compared with it once, before it is sent.
     The time that the act's hour was read by is off by `drift_ms` now, where the clock was set since. An act whose page saw the clock jump
     by as much, whose hour lies ahead of the server's, or before an earlier act's, or of a phone that had never heard the time, was read off
     the clock as it is now. */
  const righted = (entries, said) => {
    const heard = [];
    let before = 0, set_since = null;
    for (const entry of entries.filter(isUnheard)) {
      const { offset_ms, at: told_at, skew_ms } = entry.read_by ?? told();
      const at = Date.parse(entry.made_at), drift_ms = offset_ms - said.offset_ms;
      before = Math.max(before, told_at);
      const is_set = Math.abs(drift_ms) > 60e3;
      const is_seen = !told_at || set_since === offset_ms || Math.abs(skew_ms - drift_ms) < 60e3;
      const is_after = is_set && (is_seen || (drift_ms > 0 ? at > said.at : at < before));
      if (is_after) set_since = offset_ms;
      before = Math.max(before, is_after ? at - drift_ms : at);
      heard.push({ id: entry.id, made_at: new Date(is_after ? at - drift_ms : at).toISOString(), is_heard: true });
    }
    return heard;
  };
  /* Put hours right by the server's time. */
  const hear = async (said) => {
    for (const { id, ...values } of righted(await store.all(), said)) await store.note(id, values);
  };
  /* Ask the server what time it is; fails without a signal, and where a stranger answers. */
  const ask = async (within_ms) => {
    const answer = await fetch("/signal", { cache: "no-store", signal: AbortSignal.timeout(within_ms) });
    if (!answer.ok || answer.headers.get("x-served-by") !== "amber-gable") throw new TypeError("no signal");
    const { now, version } = await answer.json(), at = Date.parse(now);
    return { at, version, offset_ms: at - Date.now() };
  };
  /* Go by this time from now on; once what waited is sent. */
  const believe = ({ at, version, offset_ms }) => localStorage.setItem("signal", JSON.stringify({ at, version, offset_ms }));

  /* Send what waits, the oldest first; one page at a time does so. Return whether nothing waits any more. */
  const flush = () => (navigator.locks ? navigator.locks.request("queue", sendAll) : sendAll());
  const sendAll = async () => {
    let has_sent = false;
    // No hour is sent that was not compared with the server's: the clock may have been set before this page was opened.
    try { if ((await store.all()).some(isUnheard)) await hear(await ask(SEND_MS)); } catch { return false; }
    const entries = await store.all();
    const stays = new Set(entries.filter((one) => one.state !== "sent").map((one) => one.id));
    for (const entry of entries) {
      if (entry.state === "sent" && Date.now() - entry.at > DAYS_SHOWN * 86400e3) await store.remove(entry.id);
      // A photograph goes after the entry that it belongs to.
      if (entry.state !== "waiting" || entry.is_on_its_way || stays.has(entry.of)) continue;
      // Kept in this very moment: from the beginning, with that one.
      if (isUnheard(entry)) return sendAll();
      const again_s = await send(entry);
      if (again_s !== 0) {
        announce();
        // Not all phones at the same moment.
        if (again_s) setTimeout(flush, (again_s + Math.random() * BUSY_S) * 1000);
        return false;
      }
      stays.delete(entry.id);
      has_sent = true;
    }
    announce();
    if (has_sent) document.dispatchEvent(new CustomEvent("queue:sent"));
    return true;
  };
  const answered = async (id, values) => {
    await store.note(id, values);
    announce();
  };
  /* Forget an entry and the photographs that hang on it. */
  const forget = async (id) => {
    for (const one of await store.all()) if (one.id === id || one.of === id) await store.remove(one.id);
    announce();
  };
  const announce = () => document.dispatchEvent(new CustomEvent("queue:changed"));

  window.amberQueue = { page, pages, fresh, keep, takeUp, all: store.all, forget, flush, answered, verdict, ask, hear, believe, told, serverNow, righted };
})();
