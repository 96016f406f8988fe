/* Forms of the log (data-log): kept on this device before they are sent. Without a signal they wait (signal.js), each with its key and its
   id; photographs are made small and go after their entry. */
(() => {
  "use strict";

  const queue = window.amberQueue, signal = window.amberSignal;
  const LONGEST_PX = 1600;
  const head = (name) => document.querySelector(`meta[name="${name}"]`)?.content ?? "";
  const version = head("app-version"), holder = head("holder");
  let unkept = "";

  // -- Keeping what is sent ---------------------------------------------------------------------------------------------------------
  const fresh = () => [...crypto.getRandomValues(new Uint8Array(12))].map((byte) => byte.toString(16).padStart(2, "0")).join("");
  const fieldsOf = (form, button) => {
    const fields = [...new FormData(form)].filter(([, value]) => typeof value === "string");
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
  const photographs = async (form, of_entry) => {
    for (const input of form.querySelectorAll("input[type=file][data-photo]")) {
      for (const file of input.files) {
        try {
          await queue.keep({
            id: fresh(), path: form.dataset.photos, words: `Photograph: ${form.dataset.log}`, piece: "", verb: "photo", version, made_by: holder,
            fields: [["form_key", fresh()], ["entry", of_entry]], files: [{ name: "photo", blob: await small(file) }],
          });
        } catch { signal.say("The photograph could not be kept on this phone; the entry is.") ; }
      }
      input.value = "";
    }
  };

  document.addEventListener("htmx:confirm", (event) => {
    const form = event.target.closest?.("form[data-log]");
    if (!form || event.detail.verb !== "post") return;
    event.preventDefault();
    const button = event.detail.triggeringEvent?.submitter ?? event.detail.elt;
    // Until it is answered no news from elsewhere loads the page again under it (live.js, signal.js).
    form.dataset.sending = "yes";
    (async () => {
      if (form.elements.namedItem("entry")?.type === "hidden") form.elements.namedItem("entry").value ||= fresh();
      const entry = {
        id: form.elements.namedItem("form_key").value, path: event.detail.path, fields: fieldsOf(form, button), words: wordsOf(form, button),
        piece: form.dataset.piece ?? "", verb: button?.value || form.dataset.verb || "", version, made_by: holder, is_on_its_way: queue.page,
      };
      form.dataset.keptAs = "";
      try {
        await queue.keep(entry);
        form.dataset.keptAs = entry.id;
        await photographs(form, form.elements.namedItem("entry")?.value ?? entry.id);
      } catch {
        unkept = "This phone is full: the entry is not kept on it. Stay on this page until it is sent.";
      }
      event.detail.issueRequest(true);
    })();
  });
  const wordsOf = (form, button) => [form.dataset.log, button?.dataset.says ?? ""].filter(Boolean).join(": ");
  document.addEventListener("htmx:configRequest", (event) => {
    if (event.target.closest?.("form[data-log]")) event.detail.timeout = 12000;
  });
  document.addEventListener("htmx:afterRequest", (event) => {
    const form = event.target.closest?.("form[data-log]");
    if (form) delete form.dataset.sending;
    if (!form?.dataset.keptAs) return;
    const id = form.dataset.keptAs, status = event.detail.xhr?.status ?? 0;
    form.dataset.keptAs = "";
    signal.goesOn(Boolean(event.detail.xhr?.getResponseHeader("HX-Redirect")));
    if (status >= 200 && status < 300) {
      queue.answered(id, { state: "sent", is_on_its_way: false, answered_at: queue.serverNow().toISOString() }).then(queue.flush);
    } else if (status >= 400 && status < 500 && status !== 408) {
      // It stands in the form with its message.
      queue.remove(id).then(signal.show);
    } else {
      // By the server's clock as it was known when there last was a signal; what arrives at once has the server's own.
      queue.answered(id, { is_on_its_way: false, made_at: queue.serverNow().toISOString() });
      form.reset();
      form.elements.namedItem("form_key").value = fresh();
      if (form.elements.namedItem("entry")?.type === "hidden") form.elements.namedItem("entry").value = "";
      form.closest("details")?.removeAttribute("open");
      signal.lost();
      if (!form.dataset.piece) signal.say("Kept on this phone. It is sent when the signal is back.");
    }
  });
  document.addEventListener("htmx:sendError", (event) => { if (unkept && event.target.closest?.("form[data-log]")) signal.say(unkept); });
})();
