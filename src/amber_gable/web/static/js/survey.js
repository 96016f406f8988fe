/* Survey: drawing on an elevation with finger, mouse or pen; faults marked where they lie.
   The drawing says its scale and origin, so that pixels become metres here and nowhere else. */
(() => {
  "use strict";

  const SVG = "http://www.w3.org/2000/svg";
  const HINTS = {
    line: "Draw from one edge of a surface to another.",
    ring: "Tap the corners of the part; tap the first one again to close it.",
    pin: "Tap where it is.",
  };
  let tool = null;
  let points = [];
  // The click that ends a stroke is part of it, though the tool is put down by then.
  let strokeEnds = false;

  const drawing = () => document.querySelector("[data-elevation-drawing]");
  const marks = () => drawing()?.querySelector("[data-marks]");

  const metres = (svg, event) => {
    const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
    const { scale, left, ground } = svg.dataset;
    return [(at.x - Number(left)) / Number(scale), (Number(ground) - at.y) / Number(scale)];
  };
  const pixels = (svg, [x, y]) => {
    const { scale, left, ground } = svg.dataset;
    return [Number(left) + x * Number(scale), Number(ground) - y * Number(scale)];
  };

  const shape = (svg, corners, name, close) => {
    const path = document.createElementNS(SVG, "path");
    path.setAttribute("d", `M${corners.map((p) => pixels(svg, p).join(" ")).join("L")}${close ? "Z" : ""}`);
    path.setAttribute("class", name);
    return path;
  };
  const dot = (svg, point, name) => {
    const circle = document.createElementNS(SVG, "circle");
    const [x, y] = pixels(svg, point);
    circle.setAttribute("cx", x);
    circle.setAttribute("cy", y);
    circle.setAttribute("r", 7);
    circle.setAttribute("class", name);
    return circle;
  };

  const clear = () => marks()?.replaceChildren();

  // A line that is nearly level or upright is meant to be; 3 degrees is a finger's doing.
  const straightened = ([a, b]) => {
    const dx = Math.abs(b[0] - a[0]);
    const dy = Math.abs(b[1] - a[1]);
    if (dy < 0.05 * dx) return [a, [b[0], a[1]]];
    if (dx < 0.05 * dy) return [a, [a[0], b[1]]];
    return [a, b];
  };

  const send = (corners) => {
    const url = document.getElementById("drawing").dataset.cutUrl;
    const values = { drawn: "1", points: corners.map(([x, y]) => `${x.toFixed(4)}, ${y.toFixed(4)}`).join(";") };
    window.htmx.ajax("POST", url, { values, swap: "none", source: "#divide" });
  };

  const pick = (name) => {
    tool = tool === name ? null : name;
    points = [];
    clear();
    document.querySelectorAll("[data-tool]").forEach((b) => b.setAttribute("aria-pressed", String(b.dataset.tool === tool)));
    const hint = document.querySelector("[data-tool-hint]");
    if (hint) hint.textContent = tool ? HINTS[tool] : "";
    document.getElementById("drawing")?.classList.toggle("is-drawn-on", tool !== null);
  };

  const pinAt = (point) => {
    const form = document.getElementById("finding");
    document.getElementById("findings-part").open = true;
    // A tap is measured on the whole side, a typed place on the chosen surface.
    form.elements.namedItem("on_surface").value = "";
    const say = (metres) => (form.dataset.units === "us" ? `${(metres / 0.3048).toFixed(2)} ft` : `${metres.toFixed(2)} m`);
    form.elements.namedItem("x_m").value = say(point[0]);
    form.elements.namedItem("y_m").value = say(point[1]);
    form.dispatchEvent(new Event("input", { bubbles: true }));
    form.querySelector("select").focus();
    form.scrollIntoView({ block: "nearest" });
  };

  const showPoints = (svg, extra) => {
    clear();
    const all = extra ? [...points, extra] : points;
    if (all.length > 1) marks().append(shape(svg, all, "mark-line", false));
    all.forEach((p) => marks().append(dot(svg, p, "mark-dot")));
  };

  document.addEventListener("pointerdown", (event) => {
    const svg = event.target.closest?.("[data-elevation-drawing]");
    if (!svg || !tool) return;
    event.preventDefault();
    const at = metres(svg, event);
    if (tool === "pin") { clear(); marks().append(dot(svg, at, "mark-dot")); pinAt(at); return; }
    if (tool === "line") { points = [at]; svg.setPointerCapture(event.pointerId); return; }
    const near = points.length > 2 && Math.hypot(...pixels(svg, at).map((v, i) => v - pixels(svg, points[0])[i])) < 14;
    if (near) { strokeEnds = true; send(points); pick(null); return; }
    points.push(at);
    showPoints(svg);
  });
  document.addEventListener("pointermove", (event) => {
    const svg = drawing();
    if (!svg || tool !== "line" || points.length !== 1) return;
    showPoints(svg, metres(svg, event));
  });
  document.addEventListener("pointerup", (event) => {
    const svg = drawing();
    if (!svg || tool !== "line" || points.length !== 1) return;
    strokeEnds = true;
    const line = straightened([points[0], metres(svg, event)]);
    if (Math.hypot(line[1][0] - line[0][0], line[1][1] - line[0][1]) > 0.05) send(line);
    pick(null);
  });
  // While a tool is in hand, a tap on a surface draws and does not follow its link.
  document.addEventListener("click", (event) => {
    if ((tool || strokeEnds) && event.target.closest?.("[data-elevation-drawing]")) event.preventDefault();
    strokeEnds = false;
    const button = event.target.closest?.("[data-tool]");
    if (button) pick(button.dataset.tool);
  }, true);
  document.addEventListener("dragstart", (event) => { if (tool && event.target.closest?.("[data-elevation-drawing]")) event.preventDefault(); });
  document.addEventListener("keydown", (event) => { if (event.key === "Escape" && tool) pick(null); });

  // Where a fault lies comes with the answer that names it.
  document.addEventListener("fault-at", (event) => {
    const svg = drawing();
    if (!svg) return;
    clear();
    for (const spot of event.detail.spots) {
      if (spot.elevation && spot.elevation !== svg.dataset.elevationDrawing) continue;
      if (spot.outline.length) marks().append(shape(svg, spot.outline, "mark-fault", spot.outline.length > 2));
      if (spot.point) marks().append(dot(svg, spot.point, "mark-fault"));
    }
    svg.scrollIntoView({ block: "nearest" });
  });

  // A list that knows usual sizes fills them in where nothing was typed by hand.
  document.addEventListener("change", (event) => {
    const list = event.target.closest?.("select");
    if (!list) return;
    const option = list.selectedOptions[0];
    if (list.hasAttribute("data-fills")) {
      for (const [name, value] of Object.entries(option.dataset)) {
        const input = list.form.elements.namedItem(name);
        // A kind brings its usual size and sill each time it is chosen.
        if (input) input.value = value;
      }
    }
    if (list.hasAttribute("data-reveals")) {
      list.form.querySelectorAll("[data-revealed]").forEach((part) => { part.hidden = part.dataset.revealed !== option.dataset.shows; });
    }
  });
  // One card is open at a time; which one stays so from surface to surface. A pin leads to its card.
  const openCard = () => {
    const target = location.hash ? document.getElementById(location.hash.slice(1)) : null;
    const card = target?.closest("details[name=card]") ?? document.getElementById(sessionStorage.getItem("card") ?? "");
    if (!card) return;
    card.open = true;
    if (target) target.scrollIntoView({ block: "nearest" });
  };
  document.addEventListener("DOMContentLoaded", () => {
    openCard();
    document.querySelectorAll("details[name=card]").forEach((card) => card.addEventListener("toggle", () => {
      if (card.open) sessionStorage.setItem("card", card.id);
    }));
  });
  window.addEventListener("hashchange", openCard);
  // An opening chosen in the list is changed in its card.
  document.addEventListener("htmx:afterSwap", (event) => {
    if (event.detail.target?.id === "opening-card") document.getElementById("openings-part").open = true;
  });
  document.addEventListener("input", (event) => { if (event.target.matches?.("input")) event.target.dataset.typed = "1"; });
})();
