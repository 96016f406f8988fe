/* Inspection: a tap on the wall puts a mark there; a finger signs. The drawing says its scale (see drawing/house/elevation.py). */
(() => {
  "use strict";

  const SVG = "http://www.w3.org/2000/svg";
  const place = document.querySelector("[data-inspect]"), form = document.getElementById("mark");
  place?.addEventListener("click", (event) => {
    if (!form) return;
    const svg = place.querySelector("svg"), { scale, left, ground } = svg.dataset;
    const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
    const here = new DOMPoint(event.clientX, event.clientY);
    const below = [...svg.querySelectorAll("path[data-surface]")].findLast((one) => one.isPointInFill(here.matrixTransform(one.getScreenCTM().inverse())));
    if (!below) return;
    form.hidden = false;
    form.elements.namedItem("spot").value = `${((at.x - Number(left)) / Number(scale)).toFixed(2)},${((Number(ground) - at.y) / Number(scale)).toFixed(2)}`;
    form.elements.namedItem("surface_id").value = below.dataset.surface;
    form.querySelector("[data-where]").textContent = `${below.querySelector("title")?.textContent.split(":")[0] ?? "Here"}: what is it?`;
    let ring = svg.querySelector(".mark-new");
    if (!ring) {
      ring = document.createElementNS(SVG, "circle");
      ring.setAttribute("class", "mark-new");
      ring.setAttribute("r", "13");
      svg.append(ring);
    }
    ring.setAttribute("cx", at.x);
    ring.setAttribute("cy", at.y);
    form.scrollIntoView({ block: "nearest" });
  });

  const pad = document.querySelector("[data-sign]");
  if (!pad) return;
  const field = document.getElementById("sign").elements.namedItem("strokes"), line = pad.querySelector("path");
  let strokes = [], stroke = null;
  const show = () => {
    line.setAttribute("d", strokes.map((one) => `M${one.map((p) => p.join(" ")).join("L")}`).join(""));
    field.value = strokes.filter((one) => one.length > 1).map((one) => one.map((p) => p.join(",")).join(" ")).join(";");
  };
  const at = (event) => {
    const point = new DOMPoint(event.clientX, event.clientY).matrixTransform(pad.getScreenCTM().inverse());
    return [Math.round(point.x), Math.round(point.y)];
  };
  pad.addEventListener("pointerdown", (event) => { stroke = [at(event)]; strokes.push(stroke); pad.setPointerCapture(event.pointerId); event.preventDefault(); });
  pad.addEventListener("pointermove", (event) => { if (stroke && strokes.flat().length < 1400) { stroke.push(at(event)); show(); } });
  for (const end of ["pointerup", "pointercancel"]) pad.addEventListener(end, () => { stroke = null; });
  document.querySelector("[data-sign-clear]").addEventListener("click", () => { strokes = []; show(); });
})();
