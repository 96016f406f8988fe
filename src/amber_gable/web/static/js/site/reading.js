/* A reading: the gauge fills the fields; what it does not send is typed. */
(() => {
  "use strict";
  const button = document.querySelector("[data-gauge-read]"), form = document.getElementById("reading");
  button?.addEventListener("click", async () => {
    const words = document.querySelector("[data-gauge-words]"), place = button.closest("[data-gauge]");
    button.disabled = true;
    words.textContent = "Listening for a few seconds …";
    try {
      const wall = form.elements.namedItem("surface_id").value;
      const shown = await (await fetch(`${place.dataset.gauge}?surface=${encodeURIComponent(wall)}`, { signal: AbortSignal.timeout(9000) })).json();
      for (const [name, value] of Object.entries(shown.fields ?? {})) form.elements.namedItem(name).value = value;
      if (shown.instrument) form.elements.namedItem("instrument").value = shown.instrument;
      form.elements.namedItem("is_by_gauge").value = Object.keys(shown.fields ?? {}).length ? "1" : "";
      words.textContent = shown.words ?? shown.error ?? "";
    } catch {
      words.textContent = "No answer from the gauge. Type what it shows.";
    }
    button.disabled = false;
  });
})();
