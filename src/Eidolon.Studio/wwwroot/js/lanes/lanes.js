// Lanes: strips that share one time axis with the Stage above them. Data come ready from the server; this only draws.
import { token } from "../token.js";

const sideColour = { L: "left", R: "right", C: "centre", N: "text-3" };
const sideWord = { L: "left", R: "right", C: "centre" };

export class Lanes extends EventTarget {
  constructor(element, clock, lanes) {
    super();
    this.element = element;
    this.clock = clock;
    this.rows = element.querySelector(".e-rows");
    this.now = element.querySelector(".e-now");
    this.lanes = lanes;
    this.from = 0;
    this.to = Math.max(1, clock.count - 1);
    this.rowElements = lanes.map((lane, i) => this.addRow(lane, i));
    this.chosenBlock = null;
    this.ruler = element.querySelector(".e-ruler");
    element.querySelector(".play")?.addEventListener("click", () => clock.toggle());
    element.querySelector(".back")?.addEventListener("click", () => clock.step(-1));
    element.querySelector(".forth")?.addEventListener("click", () => clock.step(1));
    this.scrubbing(element.querySelector(".e-scrub"));
    clock.addEventListener("frame", () => this.showTime());
    clock.addEventListener("state", () => this.showState());
    clock.addEventListener("range", () => this.draw());
    document.addEventListener("e-theme", () => this.draw());
    new ResizeObserver(() => this.draw()).observe(element);
    this.draw();
    this.showTime();
    this.showState();
  }

  // Other lanes, after a change of the take's state; curves below them stay.
  set(lanes) {
    const chosen = this.rowElements.findIndex((r) => r.classList.contains("sel")),
      rest = [...this.rows.children].slice(this.rowElements.length);
    this.rowElements.forEach((r) => r.remove());
    this.lanes = lanes;
    this.rowElements = lanes.map((lane, i) => this.addRow(lane, i));
    this.rowElements[chosen]?.classList.add("sel");
    this.rows.append(...rest);
    this.chosenBlock = null;
    this.draw();
  }

  addRow(lane, i) {
    const row = document.createElement("div");
    row.className = "e-lane";
    row.tabIndex = 0;
    row.dataset.lane = i;
    if (lane.kind === "curve") row.style.setProperty("--h", "44px");
    if (lane.kind === "track") row.style.setProperty("--h", "46px");
    const side =
      lane.side === "N" ? "" : `<span class="e-side ${lane.side.toLowerCase()}" aria-label="${sideWord[lane.side]}">${lane.side}</span>`;
    row.innerHTML = `<div class="nm">${side}<span class="cut"></span><span class="t"></span></div><div class="tm"><canvas aria-hidden="true"></canvas></div>`;
    row.querySelector(".cut").textContent = lane.name;
    row.querySelector(".t").textContent = lane.tally;
    row.setAttribute("aria-label", `${lane.name}${lane.side === "N" ? "" : ", " + sideWord[lane.side]}: ${lane.tally}`);
    row.setAttribute("role", "listitem");
    row.addEventListener("click", () => this.dispatchEvent(new CustomEvent("lane", { detail: { lane, index: i } })));
    this.rows.append(row);
    return row;
  }

  scrubbing(surface) {
    if (!surface) return;
    const to = (e) => {
      const box = surface.getBoundingClientRect();
      this.clock.set(this.from + ((e.clientX - box.left) / box.width) * (this.to - this.from));
    };
    // The wheel zooms around the pointer, with Shift it moves along; a double click shows the whole take.
    surface.addEventListener(
      "wheel",
      (e) => {
        e.preventDefault();
        const box = surface.getBoundingClientRect(),
          at = (e.clientX - box.left) / box.width,
          span = this.to - this.from,
          turn = e.deltaY || e.deltaX;
        if (e.shiftKey) this.show(this.from + (Math.sign(turn) * span) / 8, this.to + (Math.sign(turn) * span) / 8);
        else {
          const wide = span * (turn > 0 ? 1.25 : 0.8),
            f = this.from + at * span;
          this.show(f - at * wide, f + (1 - at) * wide);
        }
      },
      { passive: false },
    );
    surface.addEventListener("dblclick", () => this.show(0, this.clock.count - 1));
    surface.addEventListener("pointerdown", (e) => {
      // What lies on a lane can be taken hold of: then time stays.
      if (!this.dispatchEvent(new CustomEvent("grab", { detail: this.under(e), cancelable: true }))) return;
      surface.setPointerCapture(e.pointerId);
      this.clock.pause();
      to(e);
      this._drag = true;
    });
    surface.addEventListener("pointermove", (e) => {
      if (this._drag) to(e);
    });
    surface.addEventListener("pointerup", (e) => {
      this._drag = false;
      this.pickLane(e);
    });
  }

  // The lane under a pointer and the frame there.
  under(e) {
    const index = this.rowElements.findIndex((r) => {
        const b = r.getBoundingClientRect();
        return e.clientY >= b.top && e.clientY < b.bottom;
      }),
      box = this.element.querySelector(".e-scrub").getBoundingClientRect();
    return {
      event: e,
      index,
      lane: this.lanes[index],
      frame: this.from + ((e.clientX - box.left) / box.width) * (this.to - this.from),
      perPixel: (this.to - this.from) / box.width,
    };
  }

  // A click on a lane's data selects what is under it.
  pickLane(e) {
    const i = this.under(e).index;
    if (i < 0) return;
    this.dispatchEvent(new CustomEvent("lane", { detail: { lane: this.lanes[i], index: i } }));
  }

  // Shows the frames between two, at least half a second and at most the take.
  show(from, to) {
    const last = Math.max(1, this.clock.count - 1),
      span = Math.min(last, Math.max(this.clock.rate / 2, to - from));
    this.from = Math.max(0, Math.min(last - span, from));
    this.to = this.from + span;
    this.draw();
    this.showTime(false);
    this.dispatchEvent(new Event("window"));
  }

  x(frame, width) {
    return ((frame - this.from) / (this.to - this.from)) * width;
  }

  showTime(follow = true) {
    const f = this.clock.frame;
    // The window follows when time leaves it, a page at a time; who moves the window may look elsewhere.
    this.now?.classList.toggle("e-hidden", f < this.from || f > this.to);
    if (follow && (f < this.from || f > this.to)) {
      const span = this.to - this.from;
      const a = f > this.to ? f - span * 0.05 : f - span * 0.95;
      this.show(a, a + span);
      return;
    }
    this.now?.style.setProperty("--x", (f - this.from) / (this.to - this.from));
    const label = this.now?.querySelector("b");
    if (label) label.textContent = f;
    const big = this.element.querySelector(".frame b");
    if (big) big.textContent = String(f).padStart(4, "0");
    const time = this.element.querySelector(".frame span");
    if (time) {
      const s = f / this.clock.rate,
        two = (n) => String(Math.floor(n)).padStart(2, "0");
      time.textContent = `${two(s / 3600)}:${two((s / 60) % 60)}:${two(s % 60)}.${two((s % 1) * 100)}`;
    }
  }

  showState() {
    const icon = this.element.querySelector(".play .e-icon");
    icon?.classList.toggle("i-play", !this.clock.playing);
    icon?.classList.toggle("i-pause", this.clock.playing);
    this.element.querySelector(".play")?.setAttribute("aria-label", this.clock.playing ? "Pause" : "Play");
  }

  draw() {
    this.drawRuler();
    this.rowElements.forEach((row, i) => this.drawLane(row.querySelector("canvas"), this.lanes[i]));
  }

  context(canvas) {
    const w = canvas.clientWidth,
      h = canvas.clientHeight,
      ratio = Math.min(2, devicePixelRatio);
    canvas.width = Math.max(1, w * ratio);
    canvas.height = Math.max(1, h * ratio);
    const g = canvas.getContext("2d");
    g.scale(ratio, ratio);
    return [g, w, h];
  }

  drawRuler() {
    const canvas = this.ruler?.querySelector("canvas");
    if (!canvas) return;
    const [g, w, h] = this.context(canvas);
    const steps = [10, 20, 30, 60, 120, 240, 480, 600, 1200, 2400, 4800];
    const step = steps.find((s) => (s / (this.to - this.from)) * w > 62) ?? 9600;
    g.font = `11px ${token("mono")}`;
    g.fillStyle = token("text-3");
    g.strokeStyle = token("edge");
    g.textAlign = "center";
    for (let f = (Math.ceil(this.from / (step / 5)) * step) / 5; f <= this.to; f += step / 5) {
      const x = Math.round(this.x(f, w)) + 0.5,
        major = Math.abs(f / step - Math.round(f / step)) < 1e-6;
      g.beginPath();
      g.moveTo(x, h);
      g.lineTo(x, h - (major ? 5 : 3));
      g.stroke();
      if (major && f > 0 && x < w - 70) g.fillText(String(Math.round(f)), x, h - 7);
    }
    g.textAlign = "right";
    g.fillText("frames", w - 6, h - 7);
    // Notes: a small flag each.
    g.fillStyle = token("accent");
    for (const f of this.marks ?? []) {
      const x = this.x(f, w);
      g.fillRect(x, 2, 1, h - 2);
      g.fillRect(x, 2, 6, 5);
    }
    if (this.clock.inPoint > 0 || this.clock.outPoint < this.clock.count - 1) {
      g.fillStyle = token("accent");
      g.fillRect(this.x(this.clock.inPoint, w), h - 3, this.x(this.clock.outPoint, w) - this.x(this.clock.inPoint, w), 3);
    }
  }

  drawLane(canvas, lane) {
    const [g, w, h] = this.context(canvas);
    const colour = token(sideColour[lane.side] ?? "text-3");
    const mid = h / 2;
    const x = (f) => this.x(f, w);
    if (lane.kind === "thread") {
      g.fillStyle = colour;
      for (const [a, b] of lane.present) g.fillRect(x(a), mid - 2.5, Math.max(1, x(b + 1) - x(a)), 5);
    } else if (lane.kind === "gaps") {
      g.fillStyle = colour;
      g.fillRect(0, mid - 2.5, w, 5);
      for (const [a, b, , severity] of [...lane.gaps].reverse()) this.gap(g, x(a), Math.max(2, x(b + 1) - x(a)), h, severity);
    } else if (lane.kind === "blocks") {
      for (const block of lane.blocks)
        this.block(
          g,
          x(block[0]),
          Math.max(2, x(block[1] + 1) - x(block[0])),
          h,
          colour,
          block[2],
          block === this.chosenBlock,
          block[3] === true,
        );
    } else if (lane.kind === "track") {
      this.track(g, w, h, lane, colour);
    } else if (lane.kind === "heat") {
      this.heat(g, w, h, lane, colour);
    } else if (lane.kind === "strip") {
      this.values(g, w, h, { ...lane, kind: "bars" }, token("text-3"));
    } else if (lane.kind === "bars" || lane.kind === "area" || lane.kind === "curve") {
      this.values(g, w, h, lane, colour);
    } else if (lane.kind === "value") {
      g.fillStyle = token("raised");
      g.fillRect(0, mid - 3, w * 0.5, 6);
      g.fillStyle = lane.value > 1 ? token("must") : colour;
      g.fillRect(0, mid - 3, Math.min(0.5, lane.value * 0.5) * w, 6);
    } else if (lane.kind === "keys") {
      this.keys(g, w, h, lane, colour);
    }
  }

  gap(g, left, wide, h, severity) {
    const x = Math.max(-4, left),
      width = Math.min(g.canvas.width + 4, left + wide) - x;
    if (width <= 0) return;
    g.fillStyle = token("sheet");
    g.fillRect(x, 3, width, h - 6);
    if (severity === 0) {
      g.fillStyle = token("text-3");
      g.fillRect(x, h / 2 - 0.5, width, 1);
      return;
    }
    g.save();
    g.beginPath();
    g.rect(x, 3, width, h - 6);
    g.clip();
    g.strokeStyle = token(severity === 2 ? "must" : "look");
    g.lineWidth = 1.3;
    for (let k = -h; k < width + h; k += 5) {
      g.beginPath();
      g.moveTo(x + k, 3);
      g.lineTo(x + k + h, 3 + h);
      if (severity === 2) {
        g.moveTo(x + k + h, 3);
        g.lineTo(x + k, 3 + h);
      }
      g.stroke();
    }
    g.restore();
    g.strokeStyle = token(severity === 2 ? "must" : "look");
    g.strokeRect(x + 0.5, 3.5, Math.max(1, width - 1), h - 7);
  }

  block(g, left, wide, h, colour, name, chosen = false, byHand = false) {
    const x = Math.max(-8, left),
      width = Math.min(g.canvas.width + 8, left + wide) - x;
    if (width <= 0) return;
    g.globalAlpha = name === "toes" ? 0.28 : 0.45;
    g.fillStyle = colour;
    g.beginPath();
    g.roundRect(x, name === "toes" ? h / 2 : 3, width, name === "toes" ? h / 2 - 3 : h - 6, 3);
    g.fill();
    g.globalAlpha = 1;
    g.strokeStyle = chosen ? token("accent") : colour;
    g.lineWidth = chosen ? 2.5 : byHand ? 2 : 1;
    g.stroke();
    // Toes lie half behind the heel: one word is enough.
    if (width > 44 && name !== "toes") {
      g.fillStyle = token("text");
      g.font = `11px ${token("font")}`;
      g.textAlign = "left";
      g.textBaseline = "middle";
      g.fillText(name, x + 5, h * 0.4);
      g.textBaseline = "alphabetic";
    }
  }

  // Clips one after another, every other one lower; where two overlap, how the one gives way to the other.
  track(g, w, h, lane, colour) {
    const shown = lane.dragged ?? lane.blocks,
      tall = h - 15;
    shown.forEach(([a, b, name], i) => {
      const chosen = i === lane.chosen || lane.also?.includes(i);
      const x = Math.max(-8, this.x(a, w)),
        wide = Math.max(3, Math.min(w + 8, this.x(b + 1, w)) - x - 1),
        y = i % 2 ? 12 : 2;
      g.globalAlpha = lane.locked ? 0.16 : chosen ? 0.62 : 0.34;
      g.fillStyle = colour;
      g.beginPath();
      g.roundRect(x, y, wide, tall, 4);
      g.fill();
      g.globalAlpha = 1;
      g.strokeStyle = chosen ? token("accent") : colour;
      g.lineWidth = chosen ? 2.2 : 1;
      if (lane.locked) g.setLineDash([4, 3]);
      g.stroke();
      g.setLineDash([]);
      if (i === lane.chosen && !lane.locked)
        for (const edge of [x + 3.5, x + wide - 3.5]) {
          g.fillStyle = token("accent");
          g.fillRect(edge - 1, y + 6, 2, tall - 12);
        }
      if (wide > 50) {
        g.save();
        g.beginPath();
        g.rect(x, 0, wide - 6, h);
        g.clip();
        g.fillStyle = token("text");
        g.font = `${i === lane.chosen ? 600 : 450} 12px ${token("font")}`;
        g.textAlign = "left";
        g.fillText(name, x + 10, y + 19);
        g.restore();
      }
      const before = shown[i - 1];
      if (before && before[1] > a) {
        const [from, to] = [x, this.x(before[1] + 1, w)];
        g.strokeStyle = token("text");
        g.lineWidth = 1.5;
        g.beginPath();
        g.moveTo(from, 4);
        g.bezierCurveTo(from + (to - from) / 2, 4, to - (to - from) / 2, h - 4, to, h - 4);
        g.stroke();
      }
    });
    // Where it jolts, a jag.
    for (const o of lane.dragged ? [] : (lane.overlaps ?? [])) {
      if (!o.jolt) continue;
      const x = this.x((o.start + o.end) / 2, w);
      g.strokeStyle = token(o.jolt);
      g.lineWidth = 2;
      g.beginPath();
      for (const [i, dx] of [0, 5, -5, 0].entries()) g.lineTo(x + dx, 2 + ((h - 4) * i) / 3);
      g.stroke();
    }
    if (lane.drop !== undefined) {
      g.fillStyle = token("accent");
      g.fillRect(this.x(lane.drop, w) - 1.5, 0, 3, h);
    }
  }

  // The farther off, the fuller the colour of the side; beyond the scale it is a must.
  heat(g, w, h, lane, colour) {
    const n = lane.values.length,
      px = (i) => Math.round(this.x((i / n) * this.clock.count, w));
    lane.values.forEach((a, i) => {
      if (a === null) return;
      const share = a / lane.scale;
      g.globalAlpha = share > 1 ? 1 : 0.06 + 0.94 * share * share;
      g.fillStyle = share > 1 ? token("must") : colour;
      g.fillRect(px(i), 4, Math.max(1, px(i + 1) - px(i)), h - 8);
    });
    g.globalAlpha = 1;
  }

  values(g, w, h, lane, colour) {
    const v = lane.values,
      max = lane.scale ?? Math.max(12, ...v.filter((a) => a !== null)),
      n = v.length;
    const px = (i) => this.x((i / Math.max(1, n - 1)) * (this.clock.count - 1), w);
    const y = (a) => h - 1 - Math.min(1, a / max) * (h - 4);
    if (lane.kind === "bars") {
      g.fillStyle = lane.must ? token("must") : colour;
      const wide = Math.max(1, px(1) - px(0) - 0.6);
      v.forEach((a, i) => {
        if (a) g.fillRect(px(i), y(a), wide, h - y(a));
      });
      return;
    }
    g.beginPath();
    v.forEach((a, i) => {
      a === null ? g.moveTo(px(i), h) : g.lineTo(px(i), y(a));
    });
    g.strokeStyle = lane.kind === "curve" ? token("text") : colour;
    g.lineWidth = 1.4;
    g.stroke();
    if (lane.kind === "area") {
      g.lineTo(px(n - 1), h);
      g.lineTo(px(0), h);
      g.globalAlpha = 0.3;
      g.fillStyle = colour;
      g.fill();
      g.globalAlpha = 1;
    }
    if (lane.kind === "curve") {
      g.fillStyle = token("text-3");
      g.font = `11px ${token("mono")}`;
      g.fillText(`${Math.round(max)} ${lane.unit ?? ""}`, 4, 11);
    }
  }

  keys(g, w, h, lane, colour) {
    const keys = lane.keys;
    if (keys.length > 1) {
      g.strokeStyle = colour;
      g.globalAlpha = 0.6;
      g.beginPath();
      g.moveTo(this.x(keys[0][0], w), h / 2);
      g.lineTo(this.x(keys[keys.length - 1][0], w), h / 2);
      g.stroke();
      g.globalAlpha = 1;
    }
    for (const [frame, release] of keys) {
      g.beginPath();
      g.arc(this.x(frame, w), h / 2, 5, 0, Math.PI * 2);
      g.fillStyle = release ? token("sheet") : colour;
      g.fill();
      g.strokeStyle = release ? token("text-2") : colour;
      g.lineWidth = 1.6;
      g.stroke();
    }
  }
}
