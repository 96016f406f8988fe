/* Forms: messages beside their fields, nothing typed is lost. Errors come from the server as
   out-of-band fragments (see web/faults.py); this marks the fields they belong to. */
(() => {
  "use strict";

  const inputOf = (message) => {
    const id = message.id.replace(/-error$/, "");
    return document.getElementById(id);
  };

  const clear = (form) => {
    form.querySelectorAll(".field-error").forEach((message) => { message.textContent = ""; });
    form.querySelectorAll("[aria-invalid]").forEach((input) => input.removeAttribute("aria-invalid"));
    const place = document.getElementById("notice");
    place?.querySelectorAll("[data-passing]").forEach((old) => old.remove());
  };

  const mark = (form) => {
    let first = null;
    form.querySelectorAll(".field-error").forEach((message) => {
      if (!message.textContent.trim()) return;
      const input = inputOf(message);
      if (!input) return;
      input.setAttribute("aria-invalid", "true");
      first ??= input;
    });
    first?.focus();
  };

  const say = (text) => {
    const place = document.getElementById("notice");
    if (!place) return;
    const line = document.createElement("p");
    line.className = "notice";
    line.dataset.passing = "";
    line.textContent = text;
    place.append(line);
    place.scrollIntoView({ block: "nearest" });
  };

  // What was typed into a form marked data-keep is offered again if the page is left or lost.
  const keep = (form) => sessionStorage.setItem(`keep:${form.dataset.keep}`, JSON.stringify([...new FormData(form)]));
  const restore = (form) => {
    const kept = sessionStorage.getItem(`keep:${form.dataset.keep}`);
    if (!kept) return;
    for (const [name, value] of JSON.parse(kept)) {
      const input = form.elements.namedItem(name);
      if (input && "value" in input && input.type !== "hidden") input.value = value;
    }
  };

  document.addEventListener("htmx:beforeRequest", (event) => {
    const form = event.target.closest?.("form");
    if (form) clear(form);
  });
  document.addEventListener("htmx:afterRequest", (event) => {
    const form = event.target.closest?.("form");
    const status = event.detail.xhr?.status;
    if (form && status === 422) mark(form);
    // htmx takes a swapped 422 for a success; only a real one may empty fields.
    if (form && status >= 200 && status < 300) {
      if (form.dataset.keep) sessionStorage.removeItem(`keep:${form.dataset.keep}`);
      for (const name of (form.dataset.reset ?? "").split(" ").filter(Boolean)) form.elements.namedItem(name).value = "";
    }
  });
  document.addEventListener("htmx:oobErrorNoTarget", (event) => say(event.detail.content.textContent.trim()));
  document.addEventListener("htmx:sendError", () => say("No connection. Nothing was saved; what you typed is still here. Try again."));
  document.addEventListener("htmx:responseError", (event) => say(event.detail.xhr.status === 403 ? event.detail.xhr.responseText : "Something went wrong on our side; nothing was changed. Try again."));
  document.addEventListener("DOMContentLoaded", () => {
    document.querySelectorAll("form[data-keep]").forEach((form) => {
      restore(form);
      form.addEventListener("input", () => keep(form));
    });
  });
})();
