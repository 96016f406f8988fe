/* Entries of the log, kept on this device until the server has them. An entry is written here first and sent then: it survives a lost
   signal, a closed browser, a flat battery. Its key is made once, so that sent twice it is one entry (see web/door/formroute.py). */
(() => {
  "use strict";

  const DAYS_SHOWN = 3, SEND_MS = 15000;
  const open = () => new Promise((done, fail) => {
    const asked = indexedDB.open("amber-gable", 1);
    asked.onupgradeneeded = () => asked.result.createObjectStore("entries", { keyPath: "id" });
    asked.onsuccess = () => done(asked.result);
    asked.onerror = () => fail(asked.error);
  });
  const within = async (mode, act) => {
    const base = await open();
    try {
      return await new Promise((done, fail) => {
        const work = base.transaction("entries", mode, { durability: "strict" });
        const asked = act(work.objectStore("entries"));
        work.oncomplete = () => done(asked?.result);
        work.onabort = work.onerror = () => fail(work.error ?? asked?.error);
      });
    } finally {
      base.close();
    }
  };
  const put = (entry) => within("readwrite", (store) => store.put(entry));
  const remove = (id) => within("readwrite", (store) => store.delete(id));
  const all = async () => (await within("readonly", (store) => store.getAll())).sort((a, b) => a.number - b.number);

  // Each page holds a lock of its own name as long as it is open: an entry that is on its way belongs to a page, or to none any more.
  const page = `page ${crypto.getRandomValues(new Uint32Array(2)).join("")}`;
  navigator.locks?.request(page, () => new Promise(() => {}));
  const pages = async () => navigator.locks && new Set((await navigator.locks.query()).held.map((lock) => lock.name));

  // The server's clock as it was when there last was a signal: this device's own may be wrong by hours.
  const told = () => JSON.parse(localStorage.getItem("signal") ?? "null") ?? { offset_ms: 0, version: "", at: 0 };
  const serverNow = () => new Date(Date.now() + told().offset_ms);

  /* Keep an entry. A device that is full gives up the pages it carries first; where it still cannot, the caller hears of it. */
  const keep = async (entry) => {
    const whole = { ...entry, number: Date.now(), made_at: serverNow().toISOString(), state: "waiting", said: "", answered_at: "" };
    try {
      await put(whole);
    } catch (fault) {
      await caches?.delete("pages");
      await put(whole);
    }
    announce();
    return whole;
  };

  const messages = (html) => {
    const page = new DOMParser().parseFromString(html, "text/html");
    const said = [...page.querySelectorAll(".field-error, [data-field]")].map((one) => one.textContent.trim()).filter(Boolean);
    return said.join(" ") || page.body.textContent.trim().slice(0, 300);
  };

  /* Send one entry; return whether the server has answered. */
  const send = async (entry) => {
    const body = entry.files ? new FormData() : new URLSearchParams();
    for (const [name, value] of entry.fields) body.append(name, value);
    body.append("made_at", entry.made_at);
    if (entry.made_by) body.append("made_by", entry.made_by);
    for (const file of entry.files ?? []) body.append(file.name, file.blob, "photo.jpg");
    const headers = { "HX-Request": "true", "X-Phone-Now": serverNow().toISOString() };
    let answer;
    try {
      answer = await fetch(entry.path, { method: "POST", body, headers, signal: AbortSignal.timeout(entry.files ? 4 * SEND_MS : SEND_MS) });
    } catch {
      return false;
    }
    if (answer.status >= 500 || answer.status === 408 || answer.status === 429) return false;
    if (answer.ok) await put({ ...entry, state: "sent", answered_at: serverNow().toISOString(), files: undefined });
    else await put({ ...entry, state: "refused", said: messages(await answer.text()) || `Refused (${answer.status}).` });
    return true;
  };

  /* Send what waits, the oldest first; one page at a time does so. Return whether nothing waits any more. */
  const flush = () => (navigator.locks ? navigator.locks.request("queue", sendAll) : sendAll());
  const sendAll = async () => {
    let has_sent = false;
    for (const entry of await all()) {
      if (entry.state === "sent" && Date.now() - entry.number > DAYS_SHOWN * 86400e3) await remove(entry.id);
      if (entry.state !== "waiting" || entry.is_on_its_way) continue;
      if (!(await send(entry))) { announce(); return false; }
      has_sent = true;
    }
    announce();
    if (has_sent) document.dispatchEvent(new CustomEvent("queue:sent"));
    return true;
  };
  const answered = async (id, values) => {
    const entry = (await all()).find((one) => one.id === id);
    if (entry) await put({ ...entry, ...values });
    announce();
  };
  const announce = () => document.dispatchEvent(new CustomEvent("queue:changed"));

  window.amberQueue = { page, pages, keep, all, remove, flush, answered, told, serverNow };
})();
