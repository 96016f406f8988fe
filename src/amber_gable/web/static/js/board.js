// Work on the board of a day is put at another time by dragging, or with the arrow keys and Enter: the form beside it is sent, the
// server checks it, and what stands in the way is said there.
(() => {
  const STEP_H = 0.25;
  const clock = (hour) => `${String(Math.floor(hour)).padStart(2, "0")}:${String(Math.round((hour % 1) * 60)).padStart(2, "0")}`;

  const startOf = (mark, by) => Number(mark.dataset.from) + by * STEP_H;

  // Hours of the day in which a mark may begin, as the server says; asked once for each mark.
  const asked = new Map();
  const may = async (mark) => {
    const board = mark.closest("svg");
    if (!board.dataset.may) return null;
    const key = mark.dataset.work;
    if (!asked.has(key)) {
      asked.set(key, fetch(`${board.dataset.may}&stint=${encodeURIComponent(key)}`).then((answer) => (answer.ok ? answer.json() : null), () => null));
    }
    return asked.get(key);
  };

  const spanWords = (spans) => (spans.length ? `It may begin ${spans.map(([a, b]) => (a === b ? `at ${clock(a)}` : `${clock(a)} to ${clock(b)}`)).join(", ")}.`
    : "No hour of this day lets it begin.");

  const drawMay = async (mark) => {
    const spans = await may(mark);
    const board = mark.closest("svg");
    if (!spans || !board || document.activeElement !== mark) return;
    clearMay(board);
    const hour = Number(board.dataset.hour);
    for (const [first, last] of spans) {
      const rect = document.createElementNS("http://www.w3.org/2000/svg", "rect");
      rect.setAttribute("class", "board-may");
      rect.setAttribute("x", Number(board.dataset.left) + (first - Number(board.dataset.first)) * hour);
      rect.setAttribute("width", (last - first + Number(mark.dataset.long)) * hour);
      rect.setAttribute("y", Number(mark.dataset.foot) - 36);
      rect.setAttribute("height", 36);
      mark.parentNode.insertBefore(rect, mark.parentNode.firstChild);
    }
    mark.dataset.spans = JSON.stringify(spans);
    const told = document.getElementById("board-told");
    if (told && !Number(mark.dataset.by ?? 0)) told.textContent = `${mark.dataset.what}. ${spanWords(spans)}`;
  };
  const clearMay = (board) => board.querySelectorAll(".board-may").forEach((one) => one.remove());

  const isBarred = (mark, by) => {
    if (!by || !mark.dataset.spans) return false;
    const at = startOf(mark, by);
    return !JSON.parse(mark.dataset.spans).some(([first, last]) => at >= first && at <= last);
  };

  const show = (mark, by) => {
    const board = mark.closest("svg");
    mark.classList.toggle("is-moving", by !== 0);
    mark.setAttribute("transform", by ? `translate(${by * STEP_H * Number(board.dataset.hour)} 0)` : "");
    const told = document.getElementById("board-told");
    const isShut = isBarred(mark, by);
    mark.classList.toggle("is-barred", isShut);
    const then = isShut ? `Weather, waits or hours of work do not let it begin then. ${spanWords(JSON.parse(mark.dataset.spans))}`
      : "Let go, or press Enter, to put it there; Escape leaves it.";
    if (told) told.textContent = by ? `${mark.dataset.what}: start ${clock(startOf(mark, by))}. ${then}` : "";
    mark.dataset.by = String(by);
  };

  const put = (mark) => {
    const by = Number(mark.dataset.by ?? 0);
    const form = document.getElementById(mark.dataset.put);
    if (!by || !form) return;
    form.closest("details").open = true;
    form.elements.namedItem("start").value = clock(startOf(mark, by));
    form.querySelector("button[value=put]").click();
    show(mark, 0);
    form.scrollIntoView({ block: "nearest" });
  };

  const limited = (mark, by) => Math.round(Math.min(Math.max(startOf(mark, by), 0), 23.75) / STEP_H) - Number(mark.dataset.from) / STEP_H;

  document.addEventListener("pointerdown", (event) => {
    const mark = event.target.closest?.("[data-put]");
    if (!mark || event.button) return;
    event.preventDefault();
    mark.focus();
    const board = mark.closest("svg");
    // Pixels of the screen for an hour of the board, however large it is shown.
    const hour = Number(board.dataset.hour) * (board.getBoundingClientRect().width / board.viewBox.baseVal.width);
    const move = (to) => show(mark, limited(mark, Math.round((to.clientX - event.clientX) / hour / STEP_H)));
    const end = (how) => {
      document.removeEventListener("pointermove", move);
      document.removeEventListener("pointerup", drop);
      document.removeEventListener("pointercancel", leave);
      if (how) put(mark); else show(mark, 0);
    };
    const drop = () => end(true);
    const leave = () => end(false);
    document.addEventListener("pointermove", move);
    document.addEventListener("pointerup", drop);
    document.addEventListener("pointercancel", leave);
  });

  document.addEventListener("focusin", (event) => {
    const mark = event.target.closest?.("[data-put]");
    if (mark) drawMay(mark);
  });
  document.addEventListener("focusout", (event) => {
    const mark = event.target.closest?.("[data-put]");
    if (mark) clearMay(mark.closest("svg"));
  });

  document.addEventListener("keydown", (event) => {
    const mark = event.target.closest?.("[data-put]");
    if (!mark) return;
    const by = Number(mark.dataset.by ?? 0);
    if (event.key === "ArrowLeft" || event.key === "ArrowRight") show(mark, limited(mark, by + (event.key === "ArrowRight" ? 1 : -1)));
    else if (event.key === "Enter") put(mark);
    else if (event.key === "Escape") show(mark, 0);
    else return;
    event.preventDefault();
  });
})();
