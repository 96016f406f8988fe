/* What hours are reckoned with: run-length lists, values by the hour, words of a state, shadows on the plan.
   No page is touched here; hours.js takes these by name. */
window.hourMath = (() => {
  "use strict";

  const STATES = ["shut", "tight", "open"];
  /* The entry of a run-length list that holds step q. */
  const runAt = (runs, q) => {
    let low = 0;
    let high = runs.length - 1;
    while (low < high) {
      const middle = (low + high + 1) >> 1;
      if (runs[middle][0] <= q) low = middle; else high = middle - 1;
    }
    return runs[low];
  };
  /* A value given by the hour, at quarter-hour q. */
  const hourly = (values, q) => {
    const hour = Math.min(Math.floor(q / 4), values.length - 1);
    const next = values[Math.min(hour + 1, values.length - 1)];
    return values[hour] + (next - values[hour]) * (q % 4) / 4;
  };
  const within = (spans, q) => spans.some(([from, to]) => from <= q && q < to);

  const wordOf = (data, q) => {
    const [, state, rule] = data;
    const name = STATES[state];
    return state === 2 || rule < 0 ? name : `${name}: ${q.rules[rule]}`;
  };

  /* The convex hull of points, counter-clockwise. */
  const hull = (points) => {
    const sorted = [...points].sort((a, b) => a[0] - b[0] || a[1] - b[1]);
    const half = (list) => list.reduce((kept, p) => {
      while (kept.length > 1) {
        const [a, b] = kept.slice(-2);
        if ((b[0] - a[0]) * (p[1] - a[1]) - (b[1] - a[1]) * (p[0] - a[0]) > 0) break;
        kept.pop();
      }
      kept.push(p);
      return kept;
    }, []);
    return [...half(sorted).slice(0, -1), ...half(sorted.reverse()).slice(0, -1)];
  };
  /* A block's shadow on the ground: its footprint drawn out away from the sun. */
  const shadowOf = (shadow, azimuth, elevation) => {
    const corners = shadow.dataset.corners.split(" ").map((pair) => pair.split(",").map(Number));
    const length = Math.min(Number(shadow.dataset.height) / Math.tan(elevation * Math.PI / 180), 110);
    const turn = azimuth * Math.PI / 180;
    const drawn = corners.map(([x, y]) => [x - length * Math.sin(turn), y + length * Math.cos(turn)]);
    return `M${hull([...corners, ...drawn]).map((p) => p.map((v) => v.toFixed(1)).join(" ")).join("L")}Z`;
  };

  return { STATES, runAt, hourly, within, wordOf, shadowOf };
})();
