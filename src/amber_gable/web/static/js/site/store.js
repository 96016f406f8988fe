/* Where entries are kept on this device: each under the id that it was given at the moment of the act, in the order of the acts. Its
   content is added once and never written over; only what became of it changes. Not here: sending (queue.js). */
(() => {
  "use strict";

  const upgrade = (base, work) => {
    const acts = base.createObjectStore("acts", { keyPath: "number", autoIncrement: true });
    acts.createIndex("id", "id", { unique: true });
    if (!base.objectStoreNames.contains("entries")) return;
    // Kept by an earlier version: they are sent as it would have sent them, and then forgotten.
    const earlier = work.objectStore("entries").getAll();
    earlier.onsuccess = () => {
      for (const { number, ...entry } of earlier.result.sort((a, b) => a.number - b.number)) acts.add({ ...entry, at: number, person: entry.made_by ?? "", is_earlier: true });
      base.deleteObjectStore("entries");
    };
  };
  const open = () => new Promise((done, fail) => {
    const asked = indexedDB.open("amber-gable", 2);
    asked.onupgradeneeded = () => upgrade(asked.result, asked.transaction);
    asked.onsuccess = () => {
      // Another page of a newer version waits for this one.
      asked.result.onversionchange = () => asked.result.close();
      done(asked.result);
    };
    asked.onerror = () => fail(asked.error);
  });
  const within = async (mode, act) => {
    const base = await open();
    try {
      return await new Promise((done, fail) => {
        const work = base.transaction("acts", mode, { durability: "strict" });
        const asked = act(work.objectStore("acts"));
        work.oncomplete = () => done(asked?.result);
        work.onabort = work.onerror = () => fail(work.error ?? asked?.error ?? new Error("not kept"));
      });
    } finally {
      base.close();
    }
  };

  /* Add an entry; fails where one of its id is there. */
  const add = (entry) => within("readwrite", (acts) => acts.add(entry));
  /* Write down what became of an entry; its content stays as it is. */
  const note = (id, values) => within("readwrite", (acts) => {
    const asked = acts.index("id").get(id);
    asked.onsuccess = () => { if (asked.result) acts.put({ ...asked.result, ...values }); };
  });
  const remove = (id) => within("readwrite", (acts) => {
    const asked = acts.index("id").getKey(id);
    asked.onsuccess = () => { if (asked.result !== undefined) acts.delete(asked.result); };
  });
  /* Return all entries of this device in the order in which they were made, whatever its clock said. */
  const all = () => within("readonly", (acts) => acts.getAll());

  /* Ask the browser to keep what is kept; return whether it will. Without that it may throw everything away when room is short. */
  const persist = async () => {
    try {
      return (await navigator.storage.persisted()) || (await navigator.storage.persist());
    } catch {
      return false;
    }
  };

  window.amberStore = { add, note, remove, all, persist };
})();
