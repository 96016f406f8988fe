/* Keys for the whole application, and the glare theme. Hours and surfaces are in hours.js. */
(() => {
  "use strict";

  const typing = (target) => target.closest?.("input:not([type=range]), select, textarea, [contenteditable]");

  const glare = () => {
    const root = document.documentElement;
    const next = root.dataset.theme === "glare" ? "linen" : "glare";
    root.dataset.theme = next;
    // The server writes the theme into the page, so that it does not flash on load.
    document.cookie = `theme=${next}; path=/; max-age=31536000; samesite=lax`;
    document.querySelector("[data-theme-switch]")?.setAttribute("aria-pressed", String(next === "glare"));
  };

  const help = () => document.getElementById("key-list")?.showModal();

  document.addEventListener("keydown", (event) => {
    if (event.ctrlKey || event.metaKey || event.altKey || typing(event.target)) return;
    const stage = document.querySelector(`[data-stage-key="${CSS.escape(event.key)}"]`);
    if (stage) { stage.click(); return; }
    if (event.key === "m") location.href = "/";
    if (event.key === "g") glare();
    if (event.key === "Escape") more(false);
    if (event.key === "?") help();
  });
  // On a phone the bar is one line; where else to go opens below it.
  const more = (is_open) => {
    const button = document.querySelector("[data-more]");
    if (!button) return;
    document.body.classList.toggle("has-more", is_open);
    button.setAttribute("aria-expanded", String(is_open));
  };
  document.addEventListener("click", (event) => {
    if (event.target.closest?.("[data-more]")) more(!document.body.classList.contains("has-more"));
    if (event.target.closest?.("[data-theme-switch]")) glare();
    if (event.target.closest?.("[data-help]")) help();
  });
})();
