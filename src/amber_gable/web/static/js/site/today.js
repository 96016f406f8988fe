// My day: the timer goes on from the server's clock; a tap on the wall says where the wet edge is.
(() => {
  const since = document.querySelector("[data-since]");
  if (since) {
    // The page's own moment by the server, and how long it has been open: the phone's clock may be wrong by hours.
    const began = Date.parse(since.dataset.since), shown = Date.parse(since.dataset.now), opened = performance.now();
    const tick = () => {
      const minutes = Math.max(0, Math.floor((shown - began + performance.now() - opened) / 60000));
      since.textContent = `${Math.floor(minutes / 60)} h ${String(minutes % 60).padStart(2, "0")} min`;
    };
    tick();
    setInterval(tick, 10000);
  }

  // Where what comes first waits to be sent as done, the next piece of work is the answer.
  const lead = document.querySelector("main h1"), first = document.getElementById("current"), was = lead?.textContent;
  document.addEventListener("queue:overlaid", () => {
    if (!first || !lead) return;
    const next = [...document.querySelectorAll(".today-list [data-of-piece]:not(.is-done)")].find((one) => one.dataset.waits !== "done");
    const is_done = first.dataset.waits === "done";
    lead.textContent = !is_done ? was : next ? `Next: ${next.dataset.line}, from ${next.dataset.when}.` : "All your work of today is done.";
    const rest = document.querySelector("main .answer-rest");
    if (rest) rest.hidden = is_done;
  });

  const place = document.querySelector("[data-wall]");
  if (!place) return;
  const FT = 0.3048;
  const said = (metres) => {
    if (place.dataset.unit !== "ft") return `${metres.toFixed(1)} m`;
    const inches = Math.round(metres / FT * 12);
    return `${Math.floor(inches / 12)} ft ${inches % 12} in`;
  };
  place.addEventListener("click", (event) => {
    const parts = [...place.querySelectorAll("[data-surface]")].filter((one) => ["done", "next", "later"].includes(one.dataset.surface));
    const boxes = parts.map((one) => one.getBoundingClientRect());
    const left = Math.min(...boxes.map((box) => box.left)), right = Math.max(...boxes.map((box) => box.right));
    if (!(right > left)) return;
    const frac = Math.min(Math.max((event.clientX - left) / (right - left), 0), 1);
    const metres = frac * Number(place.dataset.wide);
    const field = document.querySelector("#pause input[name=joint]"), told = document.getElementById("pause-told");
    if (!field) return;
    document.getElementById("pause").open = true;
    field.value = said(metres);
    told.textContent = `Wet edge ${said(metres)} from the left corner. Then tap Stopped here.`;
    const svg = place.querySelector("svg"), box = svg.getBoundingClientRect();
    let line = svg.querySelector(".today-edge");
    if (!line) {
      line = document.createElementNS("http://www.w3.org/2000/svg", "line");
      line.setAttribute("class", "today-edge");
      svg.append(line);
    }
    const x = (left + frac * (right - left) - box.left) / box.width * svg.viewBox.baseVal.width;
    for (const [name, value] of [["x1", x], ["x2", x], ["y1", 0], ["y2", svg.viewBox.baseVal.height]]) line.setAttribute(name, value);
  });
})();
