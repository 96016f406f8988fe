/* Hours: one cursor through ribbons, curves, house band and sun plan. The data came with the page
   (see web/views/hours.py); moving the cursor asks the server for nothing. Only the reasons of the
   selected surface are asked for, when the cursor rests. */
(() => {
  "use strict";

  const { STATES, runAt, hourly, within, wordOf, shadowOf } = window.hourMath;
  const FILLS = { shut: "url(#fill-shut)", tight: "url(#fill-tight)", open: "var(--open)" };
  const REST_MS = 220;

  class Hours {
    constructor(root, data) {
      this.root = root;
      this.data = data;
      this.count = data.x.length - 1;
      this.clock = new Intl.DateTimeFormat("en-GB", { weekday: "short", hour: "2-digit", minute: "2-digit", timeZone: data.zone });
      this.selected = root.dataset.selected ?? null;
      this.slider = root.querySelector("#hour");
      this.isScrubbed = Boolean(this.slider);
      this.cursors = () => root.querySelectorAll("[data-cursor]");
      this.show(Number(root.dataset.now ?? 0));
      if (this.isScrubbed) this.listen();
    }

    time(q) { return this.data.t0 + q * this.data.step; }

    show(q) {
      this.q = Math.max(0, Math.min(this.count - 1, q));
      const x = `${this.data.x[this.q]}%`;
      this.cursors().forEach((line) => {
        line.setAttribute("x1", x);
        line.setAttribute("x2", x);
        line.classList.add("is-on");
      });
      if (!this.isScrubbed) return;
      this.slider.value = String(this.q);
      const word = this.clock.format(new Date(this.time(this.q) * 1000)).replace(",", "");
      this.slider.setAttribute("aria-valuetext", word);
      document.getElementById("hour-word").textContent = word;
      this.fillHouse();
      this.placeSun(word);
      this.restLater();
    }

    fillHouse() {
      const sides = new Map();
      for (const surface of this.data.surfaces) {
        const run = runAt(surface.runs, this.q);
        const state = STATES[run[1]];
        const word = wordOf(run, this.data);
        document.querySelectorAll(`.band-surface[data-surface="${surface.id}"]`).forEach((shape) => {
          shape.setAttribute("fill", FILLS[state]);
          shape.dataset.state = state;
          shape.firstElementChild.textContent = `${surface.name}: ${word}`;
          shape.closest("a")?.setAttribute("aria-label", `${surface.name}: ${word}`);
        });
        const wall = document.querySelector(`[data-plan-wall="${surface.id}"]`);
        if (wall) wall.setAttribute("class", `plan-wall is-${state}`);
        // The wall speaks for its side; a gable top or door only where there is no wall.
        if (!sides.has(surface.side) || wall) sides.set(surface.side, { surface, word });
      }
      for (const [side, { surface, word }] of sides) {
        const caption = document.querySelector(`[data-caption="${side}"]`);
        if (caption) caption.textContent = `${Math.round(hourly(surface.temp, this.q))} ${this.data.degree} · ${word}`;
        const lit = surface.lit.length ? Math.round(hourly(surface.lit, this.q)) : 100;
        document.querySelectorAll(`[data-sun="${side}"]`).forEach((mark) => {
          mark.classList.toggle("is-on", within(surface.sun, this.q));
          if (mark.tagName === "text") mark.textContent = lit < 95 ? `sun on ${lit} % of it` : "sun on wall";
        });
      }
    }

    placeSun(word) {
      const sun = document.querySelector("[data-plan-sun]");
      if (!sun) return;
      const elevation = hourly(this.data.sun.map((at) => at[1]), this.q);
      // Round the back of the north the azimuth jumps from 360 to 0: take the nearer way.
      const from = this.data.sun[Math.min(Math.floor(this.q / 4), this.data.sun.length - 1)][0];
      const to = this.data.sun[Math.min(Math.floor(this.q / 4) + 1, this.data.sun.length - 1)][0];
      const azimuth = from + (((to - from + 540) % 360) - 180) * (this.q % 4) / 4;
      sun.classList.toggle("is-on", elevation > 0);
      const turn = azimuth * Math.PI / 180;
      const radius = 92 * Math.cos(Math.max(elevation, 0) * Math.PI / 180);
      document.querySelectorAll(".plan-shadow").forEach((shadow) => shadow.setAttribute("d", elevation > 1 ? shadowOf(shadow, azimuth, elevation) : ""));
      sun.setAttribute("cx", String(120 + radius * Math.sin(turn)));
      sun.setAttribute("cy", String(120 - radius * Math.cos(turn)));
      document.getElementById("plan-hour").textContent = elevation > 0 ? `${word}, ${Math.round(elevation)}° high` : `${word}, below the horizon`;
    }

    restLater() {
      clearTimeout(this.resting);
      this.resting = setTimeout(() => this.askWhy(), REST_MS);
    }

    askWhy() {
      if (!this.selected) return;
      const address = `${this.root.dataset.why}/${this.selected}?at=${this.time(this.q)}&${this.root.dataset.query ?? ""}`;
      htmx.ajax("GET", address, { target: "#why", swap: "innerHTML" });
    }

    select(id) {
      this.selected = id;
      this.root.querySelectorAll("[data-row]").forEach((row) => row.classList.toggle("is-selected", row.dataset.row === id));
      document.querySelectorAll(".band-surface").forEach((shape) => shape.classList.toggle("is-selected", shape.dataset.surface === id));
      const asked = new URLSearchParams(window.location.search);
      asked.set("surface", id);
      history.replaceState(null, "", `?${asked}`);
      this.askWhy();
    }

    step(by) { this.show(this.q + by); }

    nextSurface(by) {
      const ids = this.data.surfaces.map((surface) => surface.id);
      this.select(ids[(ids.indexOf(this.selected) + by + ids.length) % ids.length]);
    }

    /* Where on the axis a pointer is. */
    fromPointer(event, svg) {
      const box = svg.getBoundingClientRect();
      const x = 100 * (event.clientX - box.left) / box.width;
      let low = 0;
      let high = this.count;
      while (low < high) {
        const middle = (low + high + 1) >> 1;
        if (this.data.x[middle] <= x) low = middle; else high = middle - 1;
      }
      return low;
    }

    listen() {
      this.slider.addEventListener("input", () => this.show(Number(this.slider.value)));
      document.getElementById("hour-now").addEventListener("click", () => this.show(Number(this.root.dataset.now)));
      const strips = this.root.querySelector(".is-draggable");
      const move = (event) => {
        const svg = event.target.closest?.("svg") ?? strips.querySelector("svg");
        this.show(this.fromPointer(event, svg));
      };
      strips.addEventListener("pointerdown", (event) => {
        if (!event.target.closest("svg")) return;
        strips.setPointerCapture(event.pointerId);
        this.isDragging = true;
        move(event);
      });
      strips.addEventListener("pointermove", (event) => { if (this.isDragging) this.show(this.fromPointer(event, strips.querySelector("svg"))); });
      for (const end of ["pointerup", "pointercancel"]) strips.addEventListener(end, () => { this.isDragging = false; });
      document.querySelectorAll("[data-go]").forEach((choice) => choice.addEventListener("change", () => choice.form.submit()));
      document.addEventListener("click", (event) => {
        const link = event.target.closest?.("[data-select], [data-surface-link]");
        if (!link || event.ctrlKey || event.metaKey) return;
        event.preventDefault();
        this.select(link.dataset.select ?? link.dataset.surfaceLink);
      });
      document.addEventListener("keydown", (event) => {
        if (event.target.closest?.("input:not([type=range]), select, textarea") || event.ctrlKey || event.metaKey || event.altKey) return;
        const by = { ",": -4, ".": 4, "<": -1, ">": 1 }[event.key];
        if (by) this.step(by);
        if (event.key === "[") this.nextSurface(-1);
        if (event.key === "]") this.nextSurface(1);
      });
    }
  }

  const beginAll = () => {
    document.querySelectorAll("[data-hours]").forEach((root) => {
      if (root.hours) return;
      const source = document.querySelector(`script[data-hours-of="${root.dataset.hours}"]`);
      const data = JSON.parse(source.textContent);
      if (!root.dataset.now) root.dataset.now = String(Math.floor((Date.parse(document.querySelector("[data-clock]").dateTime) / 1000 - data.t0) / data.step));
      root.hours = new Hours(root, data);
    });
  };
  document.addEventListener("DOMContentLoaded", beginAll);
  // Cards and curves come later than the page: hours begin with them, and the cursor is given its place.
  document.addEventListener("htmx:afterSettle", () => {
    beginAll();
    document.querySelectorAll("[data-hours]").forEach((root) => {
      const x = `${root.hours.data.x[root.hours.q]}%`;
      root.hours.cursors().forEach((line) => { line.setAttribute("x1", x); line.setAttribute("x2", x); line.classList.add("is-on"); });
    });
  });
})();
