/* Forms of the log (data-log): kept on this device before they are sent. Without a signal they wait (signal.js), each with its key and its
   id; photographs are made small and go after their entry. */
(() => {
  "use strict";

  const queue = window.amberQueue, signal = window.amberSignal;
  const LONGEST_PX = 1600, SLOW_MS = 2500;
  const head = (name) => document.querySelector(`meta[name="${name}"]`)?.content ?? "";
  const version = head("app-version"), holder = head("holder");

  // -- Keeping what is sent ---------------------------------------------------------------------------------------------------------
  const fieldsOf = (form, button) => {
    const fields = [...new FormData(form)].filter(([name, value]) => typeof value === "string" && name !== "form_key");
    if (button?.name && form.contains(button)) fields.push([button.name, button.value]);
    return fields;
  };
  /* A photograph as small as it is looked at, upright, with nothing of what the camera wrote in it. */
  const small = async (file) => {
    const picture = await createImageBitmap(file, { imageOrientation: "from-image" });
    const scale = Math.min(1, LONGEST_PX / Math.max(picture.width, picture.height));
    const canvas = document.createElement("canvas");
    [canvas.width, canvas.height] = [Math.round(picture.width * scale), Math.round(picture.height * scale)];
    canvas.getContext("2d").drawImage(picture, 0, 0, canvas.width, canvas.height);
    return new Promise((done) => { canvas.toBlob(done, "image/jpeg", 0.85); });
  };
  const photographs = async (form, of) => {
    for (const input of form.querySelectorAll("input[type=file][data-photo]")) {
      for (const file of input.files) {
        try {
          await queue.keep({
            id: queue.fresh(), of, path: form.dataset.photos, words: `Photograph: ${form.dataset.log}`, piece: "", verb: "photo", version, person: holder,
            fields: [["entry", of]], files: [{ name: "photo", blob: await small(file) }],
          });
        } catch { signal.say("The photograph could not be kept on this phone; the entry is."); }
      }
    }
  };

  // What is being sent: by form, the entry as it was made.
  const under_way = new WeakMap();
  const withoutId = (entry) => JSON.stringify([entry.path, entry.fields.filter(([name]) => name !== "entry")]);
  const is_same = (one, other) => Boolean(one) && withoutId(one) === withoutId(other);
  document.addEventListener("htmx:confirm", (event) => {
    const form = event.target.closest?.("form[data-log]");
    if (!form || event.detail.verb !== "post") return;
    event.preventDefault();
    const button = event.detail.triggeringEvent?.submitter ?? event.detail.elt, before = under_way.get(form);
    // An act has an id of its own from its first moment: a page that was opened again, or carried for days, gives it none.
    const id = queue.fresh(), own = form.elements.namedItem("entry");
    if (own?.type === "hidden") own.value = id;
    const entry = {
      id, path: event.detail.path, fields: fieldsOf(form, button), words: wordsOf(form, button), piece: form.dataset.piece ?? "",
      verb: button?.value || form.dataset.verb || "", version, person: holder, is_on_its_way: form.dataset.sending ? false : queue.page,
    };
    if (form.dataset.sending) {
      // A second tap is no second act; what says something else waits until the first is answered.
      if (!is_same(before, entry)) queue.keep(entry).then(() => signal.say("Kept on this phone. It is sent in a moment."));
      return;
    }
    // What this phone could not keep, sent again as it was, is the same act: the server may have it.
    const act = before?.is_unkept && is_same(before, entry) ? before : entry;
    // Until it is answered no news from elsewhere loads the page again under it (live.js, signal.js).
    form.dataset.sending = "yes";
    under_way.set(form, act);
    (async () => {
      try {
        // The phone may have room by now.
        if (act === entry || act.is_unkept) await queue.keep(act);
        act.is_unkept = false;
        await photographs(form, act.id);
      } catch {
        act.is_unkept = true;
      }
      setTimeout(() => { if (!act.is_unkept && under_way.get(form) === act) signal.say("Kept on this phone. It is being sent."); }, SLOW_MS);
      event.detail.issueRequest(true);
    })();
  });
  const wordsOf = (form, button) => [form.dataset.log, button?.dataset.says ?? ""].filter(Boolean).join(": ");
  document.addEventListener("htmx:configRequest", (event) => {
    const form = event.target.closest?.("form[data-log]"), entry = form && under_way.get(form);
    if (!entry) return;
    event.detail.timeout = 12000;
    event.detail.headers["X-Entry"] = entry.id;
    // Exactly what is kept, in its order.
    const body = new FormData();
    for (const [name, value] of entry.fields) body.append(name, value);
    // In the name of whom the page was made for: it may have been carried while the phone changed hands.
    if (entry.person) body.append("made_by", entry.person);
    event.detail.parameters = body;
  });
  document.addEventListener("htmx:afterRequest", async (event) => {
    const form = event.target.closest?.("form[data-log]"), entry = form && under_way.get(form);
    if (!entry) return;
    delete form.dataset.sending;
    const asked = event.detail.xhr, state = asked ? await queue.verdict(entry, (name) => asked.getResponseHeader(name)) : "";
    if (entry.is_unkept) {
      if (state === "kept" || state === "refused") under_way.delete(form);
      else signal.say("This phone is full: the entry is not kept on it. Stay on this page until it is sent.");
      return;
    }
    under_way.delete(form);
    if (state === "kept") {
      signal.goesOn(Boolean(asked.getResponseHeader("HX-Redirect")));
      emptied(form);
      await queue.answered(entry.id, { state: "sent", is_on_its_way: false, answered_at: queue.serverNow().toISOString() });
      queue.flush();
    } else if (state === "refused") {
      // It stands in the form with its message, and so do its photographs.
      await queue.forget(entry.id);
    } else if (state === "other") {
      await queue.answered(entry.id, { state: "refused", is_on_its_way: false, said: "The server has another entry under this id. Look at both." });
    } else {
      // By the server's clock as it was known when there last was a signal; what arrives at once has the server's own.
      await queue.answered(entry.id, { is_on_its_way: false });
      emptied(form);
      form.reset();
      form.closest("details")?.removeAttribute("open");
      const is_busy = asked?.status === 503 && Boolean(asked.getResponseHeader("Retry-After"));
      if (is_busy) setTimeout(queue.flush, 1000 * (Number(asked.getResponseHeader("Retry-After")) || 5));
      else signal.lost();
      if (!form.dataset.piece || is_busy) signal.say(`Kept on this phone. It is sent when the ${is_busy ? "server has time" : "signal is back"}.`);
    }
  });
  const emptied = (form) => {
    for (const input of form.querySelectorAll("input[type=file][data-photo]")) input.value = "";
  };
})();
