/* A value that was carried here from elsewhere: `?fill-FIELD=value` is put into the first field of that name, which is opened and shown. */
(() => {
  "use strict";

  const carried = [...new URLSearchParams(location.search)].filter(([name]) => name.startsWith("fill-"));
  if (!carried.length) return;
  document.addEventListener("DOMContentLoaded", () => {
    let first = null;
    for (const [name, value] of carried) {
      const field = document.querySelector(`main [name="${CSS.escape(name.slice(5))}"]:not([type=hidden])`);
      if (!field) continue;
      field.value = value;
      field.classList.add("is-carried");
      for (let place = field.closest("details"); place; place = place.parentElement.closest("details")) place.open = true;
      field.dispatchEvent(new Event("input", { bubbles: true }));
      first ??= field;
    }
    first?.scrollIntoView({ block: "center" });
    first?.focus({ preventScroll: true });
    // Loaded again, the page shows what is kept.
    history.replaceState(null, "", location.pathname + location.hash);
  });
})();
