/* Order of strokes: goes through the turns one by one; what is done stays, what is to come waits in grey. */
(() => {
  "use strict";
  const list = document.querySelector("[data-strokes]");
  if (!list) return;
  const turns = [...list.querySelectorAll("li[data-turn]")];
  let at = -1;

  const show = () => {
    document.querySelectorAll("[data-turn]").forEach((mark) => {
      const turn = Number(mark.dataset.turn);
      mark.classList.toggle("is-now", turn === at);
      mark.classList.toggle("is-ahead", at >= 0 && turn > at);
    });
    turns[at]?.scrollIntoView({ block: "nearest" });
  };

  list.addEventListener("click", (event) => {
    const step = event.target.closest("[data-stroke]")?.dataset.stroke;
    if (step === undefined) return;
    at = step === "0" ? -1 : Math.min(Math.max(at + Number(step), 0), turns.length - 1);
    show();
  });
})();
