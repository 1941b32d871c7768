// Curves of the selected markers: position, speed, acceleration, or the length of a link, on the lanes' own time axis; gaps shaded, proposals dashed.
import { token } from "../token.js";

const kinds = {
  position: {
    rows: [
      ["x", "to the left"],
      ["y", "up"],
      ["z", "ahead"],
    ],
    unit: "m",
    digits: 3,
  },
  speed: { rows: [["v", "speed"]], unit: "m/s", digits: 2 },
  acceleration: { rows: [["a", "acceleration"]], unit: "m/s²", digits: 1 },
  link: { rows: [["d", "between two"]], unit: "mm", digits: 1 },
};
// The first marker is drawn in the text's colour, others in lines that differ in more than colour.
const strokes = [
  ["text", []],
  ["left", [8, 3]],
  ["right", [3, 3]],
  ["centre", [10, 3, 2, 3]],
];

// A series with the least and the most of every block of frames: a whole ten-minute take is drawn from the blocks.
const block = 32;
function blocks(values) {
  const n = Math.ceil(values.length / block),
    low = new Float32Array(n).fill(Infinity),
    high = new Float32Array(n).fill(-Infinity);
  let hidden = false;
  for (let f = 0; f < values.length; f++) {
    const v = values[f],
      b = f >> 5;
    if (v < low[b]) low[b] = v;
    if (v > high[b]) high[b] = v;
    if (Number.isNaN(v)) hidden = true;
  }
  return { values, low, high, hidden };
}

// The least and the most within frames; blocks where they fit, single frames at the ends.
function range(s, from, to, out) {
  let low = Infinity,
    high = -Infinity,
    f = from;
  while (f <= to) {
    if ((f & (block - 1)) === 0 && f + block - 1 <= to) {
      const b = f >> 5;
      if (s.low[b] < low) low = s.low[b];
      if (s.high[b] > high) high = s.high[b];
      f += block;
    } else {
      const v = s.values[f];
      if (v < low) low = v;
      if (v > high) high = v;
      f++;
    }
  }
  out[0] = low;
  out[1] = high;
}

export class Curves {
  constructor(lanes, stage, clock) {
    Object.assign(this, {
      lanes,
      stage,
      clock,
      kind: "off",
      markers: [],
      proposals: null,
      rows: [],
      rivals: new Map(),
      zoom: [1, 1, 1],
      shift: [0, 0, 0],
    });
    lanes.addEventListener("window", () => this.draw());
    clock.addEventListener("frame", () => this.tell());
    document.addEventListener("e-theme", () => this.draw());
    new ResizeObserver(() => this.draw()).observe(lanes.element);
    // The wheel with Alt zooms the values of the curve under the pointer; with Alt a double click shows all of them again.
    lanes.element.addEventListener(
      "wheel",
      (e) => {
        const i = e.altKey ? this.rowAt(e) : -1;
        if (i < 0) return;
        e.preventDefault();
        e.stopImmediatePropagation();
        this.zoom[i] = Math.min(200, Math.max(1, this.zoom[i] * (e.deltaY > 0 ? 0.8 : 1.25)));
        this.draw();
      },
      { passive: false, capture: true },
    );
    lanes.element.addEventListener(
      "dblclick",
      (e) => {
        const i = e.altKey ? this.rowAt(e) : -1;
        if (i >= 0) {
          e.stopImmediatePropagation();
          this.zoom[i] = 1;
          this.draw();
        }
      },
      { capture: true },
    );
  }

  get marker() {
    return this.markers[0] ?? -1;
  }

  rowAt(e) {
    return this.rows.findIndex((r) => {
      const b = r.getBoundingClientRect();
      return e.clientY >= b.top && e.clientY < b.bottom;
    });
  }

  show(kind) {
    this.kind = kind;
    this.zoom = [1, 1, 1];
    this.build();
  }

  select(markers) {
    const list = markers.slice(0, strokes.length);
    if (list.length === this.markers.length && list.every((m, i) => m === this.markers[i])) return;
    this.markers = list;
    this.proposals = null;
    this.build();
  }

  // The samples are other ones now.
  anew() {
    this.markers = [this.stage.markers.selected, ...this.stage.markers.also].filter((m) => m >= 0).slice(0, strokes.length);
    this.build();
  }

  // What would be put in a place: the chosen points and, to compare, a smooth curve's.
  propose(start, chosen, rival) {
    this.proposals = chosen ? { start, chosen, rival } : null;
    this.draw();
  }

  // The same markers in another state of the take: [marker → path].
  setRival(paths) {
    this.rivals = paths;
    this.build();
  }

  build() {
    this.rows.forEach((r) => r.remove());
    this.rows = [];
    this.series = null;
    const kind = kinds[this.kind],
      on = !!kind && this.markers.length > (this.kind === "link" ? 1 : 0);
    this.lanes.rows.classList.toggle("with-curves", on);
    if (!on) return;
    const names = this.markers.map((m) => this.stage.markers.info[m].name);
    for (const [name, word] of kind.rows) {
      const row = document.createElement("div");
      row.className = "e-lane e-curve-row";
      row.style.setProperty("--h", "40px");
      row.innerHTML =
        '<div class="nm"><b class="n"></b><span class="cut dim"></span><span class="t"></span></div><div class="tm"><canvas aria-hidden="true"></canvas></div>';
      row.querySelector("b").textContent = name;
      row.querySelector(".cut").textContent = this.kind === "link" ? `${names[0]} to ${names[1]}` : word;
      row.setAttribute("role", "listitem");
      row.setAttribute("aria-label", `${word} of ${names.join(", ")}`);
      this.lanes.rows.append(row);
      this.rows.push(row);
    }
    this.series = (this.kind === "link" ? [this.link()] : this.markers.map((m) => this.of(this.path(m)))).map((rows) => rows.map(blocks));
    this.before =
      this.kind === "link" ? [] : this.markers.filter((m) => this.rivals.has(m)).map((m) => this.of(this.rivals.get(m)).map(blocks));
    this.draw();
    this.tell();
    this.rows[0].scrollIntoView({ block: "nearest" });
  }

  path(marker) {
    return this.stage.markers.samples.array(marker);
  }

  // [row][frame] of one path of x, y, z.
  of(path) {
    const n = this.clock.count,
      rate = this.clock.rate;
    if (this.kind === "position")
      return [0, 1, 2].map((k) => {
        const v = new Float32Array(n);
        for (let f = 0, at = k; f < n; f++, at += 3) v[f] = path[at];
        return v;
      });
    const v = new Float32Array(n).fill(NaN),
      speed = this.kind === "speed";
    for (let f = 1; f < n - 1; f++) {
      let sum = 0;
      for (let k = f * 3; k < f * 3 + 3; k++) {
        const d = speed ? ((path[k + 3] - path[k - 3]) / 2) * rate : (path[k + 3] - 2 * path[k] + path[k - 3]) * rate * rate;
        sum += d * d;
      }
      v[f] = Math.sqrt(sum);
    }
    return [v];
  }

  link() {
    const [a, b] = [this.path(this.markers[0]), this.path(this.markers[1])],
      v = new Float32Array(this.clock.count);
    for (let f = 0; f < v.length; f++) {
      const k = f * 3;
      v[f] = Math.hypot(a[k] - b[k], a[k + 1] - b[k + 1], a[k + 2] - b[k + 2]) * 1000;
    }
    return [v];
  }

  tell() {
    const kind = kinds[this.kind];
    if (!kind || !this.series) return;
    this.rows.forEach((row, i) => {
      const v = this.series[0][i].values[Math.round(this.clock.frame)];
      row.querySelector(".t").textContent = Number.isNaN(v) ? "hidden" : `${v.toFixed(kind.digits)} ${kind.unit}`;
    });
  }

  draw() {
    if (!this.series) return;
    const from = Math.max(0, Math.floor(this.lanes.from)),
      to = Math.min(this.clock.count - 1, Math.ceil(this.lanes.to));
    this.rows.forEach((row, i) => this.row(row.querySelector("canvas"), i, from, to));
  }

  row(canvas, axis, from, to) {
    const [g, w, h] = this.lanes.context(canvas),
      x = (f) => this.lanes.x(f, w),
      first = this.series[0][axis];
    const p = this.kind === "position" ? this.proposals : null,
      offered = p ? [p.chosen, p.rival].filter(Boolean).map((list) => list.filter((_, k) => k % 3 === axis)) : [];
    let low = Infinity,
      high = -Infinity;
    const reach = (v) => {
      if (v < low) low = v;
      if (v > high) high = v;
    };
    const ends = [0, 0];
    for (const s of this.series) {
      range(s[axis], from, to, ends);
      if (ends[1] >= ends[0]) ends.forEach(reach);
    }
    if (p && p.start <= to && p.start + p.chosen.length / 3 >= from) offered.forEach((list) => list.forEach(reach));
    if (!(high > low)) high = low + 0.001;
    // Zoomed in value, what is under the playhead stays in the middle.
    if (this.zoom[axis] > 1) {
      const now = first.values[Math.round(this.clock.frame)],
        middle = Number.isNaN(now) ? (low + high) / 2 : now,
        half = (high - low) / 2 / this.zoom[axis];
      [low, high] = [middle - half, middle + half];
    }
    const y = (v) => h - 5 - ((v - low) / (high - low)) * (h - 10);
    if (first.hidden) this.shade(g, first.values, from, to, x, h);
    for (const s of this.before) this.line(g, s[axis], from, to, x, y, w, token("must"), [2, 3], 1.2);
    this.series.forEach((s, k) => this.line(g, s[axis], from, to, x, y, w, token(strokes[k][0]), strokes[k][1], 1.5));
    offered.forEach((list, k) => {
      g.strokeStyle = token(k === 0 ? "accent" : "must");
      g.setLineDash(k === 0 ? [6, 3] : [3, 4]);
      g.lineWidth = k === 0 ? 2 : 1.3;
      g.beginPath();
      list.forEach((v, j) => g.lineTo(x(p.start + j), y(v)));
      g.stroke();
    });
    g.setLineDash([]);
    g.fillStyle = token("text-3");
    g.font = `10px ${token("mono")}`;
    g.fillText(`${high.toFixed(kinds[this.kind].digits)}${this.zoom[axis] > 1 ? `  × ${this.zoom[axis].toFixed(1)}` : ""}`, 4, 12);
    g.fillText(low.toFixed(kinds[this.kind].digits), 4, h - 3);
  }

  shade(g, values, from, to, x, h) {
    g.fillStyle = token("hover");
    let open = -1;
    for (let f = from; f <= to + 1; f++) {
      const hidden = f <= to && Number.isNaN(values[f]);
      if (hidden && open < 0) open = f;
      if (!hidden && open >= 0) {
        g.fillRect(x(open - 0.5), 0, x(f - 0.5) - x(open - 0.5), h);
        open = -1;
      }
    }
  }

  // With more frames than pixels the least and the most of each pixel are drawn: no spike is lost on the way.
  line(g, series, from, to, x, y, w, colour, dash, width) {
    const { values } = series;
    g.strokeStyle = colour;
    g.lineWidth = width;
    const dense = (to - from) / w > 2;
    g.setLineDash(dense ? [] : dash);
    g.beginPath();
    if (dense) {
      const step = (to - from) / w,
        ends = [0, 0];
      for (let px = 0; px < w; px++) {
        range(series, Math.floor(from + px * step), Math.min(to, Math.floor(from + (px + 1) * step)), ends);
        if (ends[1] >= ends[0]) {
          const at = x(from + px * step);
          g.moveTo(at, y(ends[0]));
          g.lineTo(at, Math.min(y(ends[1]), y(ends[0]) - 1));
        }
      }
    } else {
      let pen = false;
      for (let f = from; f <= to; f++) {
        if (Number.isNaN(values[f])) {
          pen = false;
          continue;
        }
        if (pen) g.lineTo(x(f), y(values[f]));
        else g.moveTo(x(f), y(values[f]));
        pen = true;
      }
    }
    g.stroke();
    g.setLineDash([]);
  }
}
