/* Forms: messages beside their fields, nothing typed is lost. Errors come from the server as
   out-of-band fragments (see web/door/faults.py); this marks the fields they belong to. */
(() => {
  "use strict";

  const inputOf = (message) => {
    const id = message.id.replace(/-error$/, "");
    return document.getElementById(id);
  };

  const clear = (form) => {
    form.querySelectorAll(".field-error").forEach((message) => { message.textContent = ""; });
    form.querySelectorAll("[aria-invalid]").forEach((input) => input.removeAttribute("aria-invalid"));
    document.getElementById("said")?.replaceChildren();
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

  /* Answer the last tap at the foot of the screen, wherever the page is scrolled to, until the next act, or a tap on the answer. */
  const say = (text) => {
    const line = document.createElement("p");
    line.className = "notice";
    line.textContent = text;
    line.addEventListener("click", () => line.remove());
    document.getElementById("said")?.append(line);
  };
  window.amberSay = say;

  // What was typed into a form marked data-keep is kept on this device until the server has it, and
  // offered again after the page was left or the connection lost. Files cannot be kept.
  const key = (form) => `keep:${form.dataset.keep}`;
  const keep = (form) => {
    const typed = [...new FormData(form)].filter(([name, value]) => typeof value === "string" && !["version", "form_key"].includes(name));
    try { localStorage.setItem(key(form), JSON.stringify({ at: Date.now(), typed })); } catch { /* a full device keeps nothing */ }
  };
  const forget = (form) => localStorage.removeItem(key(form));
  const putBack = (form, typed) => {
    for (const [name, value] of typed) {
      const input = form.elements.namedItem(name);
      if (input instanceof RadioNodeList) [...input].forEach((one) => { if (one.value === value) one.checked = true; });
      else if (input?.type === "checkbox") input.checked = true;
      else if (input && input.type !== "hidden" && input.type !== "file" && "value" in input) input.value = value;
    }
  };
  const DAYS_KEPT = 14;
  const offer = (form) => {
    const kept = JSON.parse(localStorage.getItem(key(form)) ?? "null");
    if (!kept) return;
    const differs = kept.typed.some(([name, value]) => {
      const input = form.elements.namedItem(name);
      return input && "value" in input && !["hidden", "file", "checkbox"].includes(input.type) && input.value !== value;
    });
    if (!differs || Date.now() - kept.at > DAYS_KEPT * 86400e3) { forget(form); return; }
    const line = document.createElement("p");
    line.className = "kept";
    line.append("Typed before and not saved: ");
    const action = (text, act) => {
      const button = document.createElement("button");
      button.type = "button";
      button.className = "btn btn-quiet";
      button.textContent = text;
      button.addEventListener("click", () => { act(); line.remove(); });
      line.append(button);
    };
    action("Put it back", () => putBack(form, kept.typed));
    action("Forget it", () => forget(form));
    form.prepend(line);
  };
  const keepAll = (root) => {
    for (const form of root.querySelectorAll("form[data-keep]")) {
      if (form.dataset.kept) continue;
      form.dataset.kept = "1";
      offer(form);
      for (const kind of ["input", "change"]) form.addEventListener(kind, () => keep(form));
    }
  };

  // Each form carries a key, and so does each button that sends: sent twice, it is taken once. What was
  // taken gets a new key for the next time.
  const freshKey = () => [...crypto.getRandomValues(new Uint8Array(12))].map((byte) => byte.toString(16).padStart(2, "0")).join("");
  document.addEventListener("htmx:configRequest", (event) => {
    if (event.detail.verb !== "post" || "form_key" in event.detail.parameters) return;
    const element = event.detail.elt;
    element.dataset.formKey ??= freshKey();
    event.detail.parameters.form_key = element.dataset.formKey;
  });
  const renewKey = (element) => {
    delete element.dataset.formKey;
    const field = element.closest("form")?.elements.namedItem("form_key");
    if (field) field.value = freshKey();
  };

  // Where two people changed one form, each field is decided: the other's value is taken or one's own kept.
  // Only then does the form know the version that it may save over, and a form that saves by itself does so.
  const decided = (form) => {
    if (form.querySelector(".conflict [data-conflict-take]")) return;
    const head = form.querySelector("[data-conflict-version]");
    const version = form.elements.namedItem("version"), seen = form.elements.namedItem("seen");
    if (!head || !(version || seen)) return;
    if (version) version.value = head.dataset.conflictVersion;
    if (seen) {
      const key = head.dataset.conflictSeen.replace(/=[^=]*$/, "=");
      seen.value = seen.value.split(" ").map((one) => (one.startsWith(key) ? head.dataset.conflictSeen : one)).join(" ");
    }
    head.textContent = "";
    delete head.dataset.conflictVersion;
    if (/change/.test(form.getAttribute("hx-trigger") ?? "")) window.htmx.trigger(form, "submit");
  };
  document.addEventListener("click", (event) => {
    const button = event.target.closest?.("[data-conflict-take], [data-conflict-all]");
    const form = button?.closest("form");
    if (!form) return;
    if ("conflictAll" in button.dataset) {
      form.querySelectorAll(".conflict").forEach((message) => { message.textContent = ""; });
    } else {
      const message = button.closest(".field-error");
      const input = inputOf(message);
      const value = button.dataset.conflictTake;
      if (input?.type === "checkbox") input.checked = value === "yes";
      else if (input) input.value = value;
      // The exact value behind what is taken goes with it.
      if (input && button.dataset.conflictWas) {
        let was = form.elements.namedItem(`${input.name}.was`);
        if (!was) form.append(was = Object.assign(document.createElement("input"), { type: "hidden", name: `${input.name}.was` }));
        was.value = button.dataset.conflictWas;
      }
      message.textContent = "";
      input?.removeAttribute("aria-invalid");
      input?.focus();
    }
    decided(form);
  });

  // A list of choices that is sent anew keeps what is chosen in it, where that is still offered.
  document.addEventListener("htmx:oobBeforeSwap", (event) => {
    const list = event.detail.target;
    const next = event.detail.fragment?.querySelector?.("select") ?? event.detail.fragment;
    if (list?.tagName !== "SELECT" || next?.tagName !== "SELECT") return;
    if ([...next.options].some((option) => option.value === list.value)) next.value = list.value;
  });

  document.addEventListener("htmx:beforeRequest", (event) => {
    const form = event.target.closest?.("form");
    if (form) clear(form);
  });
  document.addEventListener("htmx:afterRequest", (event) => {
    const form = event.target.closest?.("form");
    const status = event.detail.xhr?.status;
    // Of an entry of the log only the server's own word counts: what is kept of it, and until when, is for log.js.
    if (form?.matches("[data-log]") && event.detail.xhr?.getResponseHeader("x-entry-state") !== "kept" && status < 400) return;
    if (status >= 200 && status < 300 && event.detail.requestConfig?.verb === "post") renewKey(event.target);
    if (form && [404, 408, 413, 422, 503, 507].includes(status)) mark(form);
    // htmx takes a swapped 422 for a success; only a real one may empty fields.
    if (form && status >= 200 && status < 300) {
      if (form.dataset.keep) forget(form);
      for (const name of (form.dataset.reset ?? "").split(" ").filter(Boolean)) {
        const field = form.elements.namedItem(name);
        if (field.type === "checkbox") field.checked = field.defaultChecked;
        else field.value = field.defaultValue;
      }
    }
  });
  // An address that differs by its part behind # alone is only scrolled to: the page would go on showing what was before.
  document.addEventListener("htmx:beforeOnLoad", (event) => {
    const told = event.detail.xhr.getResponseHeader("HX-Redirect");
    const to = told && new URL(told, location.href);
    if (!to?.hash || to.pathname + to.search !== location.pathname + location.search) return;
    event.preventDefault();
    history.replaceState(null, "", to.href);
    location.reload();
  });
  document.addEventListener("htmx:oobErrorNoTarget", (event) => say(event.detail.content.textContent.trim()));
  // Entries of the log are kept on the device and sent later (log.js); everything else is still in its form.
  document.addEventListener("htmx:sendError", (event) => event.target.closest?.("form[data-log]") || say("No connection. Nothing was saved; what you typed is still here. Try again."));
  document.addEventListener("htmx:responseError", (event) => {
    const asked = event.detail.xhr, is_text = (asked.getResponseHeader("content-type") ?? "").startsWith("text/plain");
    if (asked.status === 503 && event.target.closest?.("form[data-log]")) return;
    // What the server says of it: whether something was saved is known there alone.
    say(is_text ? asked.responseText : "Something went wrong on our side. Load the page again and look whether it is saved.");
  });
  document.addEventListener("DOMContentLoaded", () => keepAll(document));
  // Forms that come later: cards opened, panels swapped in.
  document.addEventListener("htmx:afterSettle", () => keepAll(document));
})();
