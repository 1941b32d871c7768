import * as THREE from "three";
import { onKey } from "../app.js";

// An echo every so many frames at least, and no more of them than can be told apart.
const every = 24,
  most = 14,
  step = 6;

// Echoes: see-through bones of the track that is worked on, at even moments. Trails: the way of the hips. And both from above, a square a metre.
export class Echoes {
  constructor(page) {
    Object.assign(this, { stage: page.stage, clock: page.clock, page });
    this.group = new THREE.Group();
    this.ways = new THREE.Group();
    this.stage.content.add(this.group, this.ways);
    this.on = { echoes: localStorage.getItem("echoes") === "1", trails: localStorage.getItem("trails") !== "0" };
    const box = document.createElement("span");
    box.className = "e-glass tight";
    box.innerHTML = `<span class="e-choice" role="group" aria-label="Over time"><button type="button" data-over="echoes"
      title="The track's figure at even moments (E)">Echoes</button><button type="button" data-over="trails"
      title="Ways of the hips (T)">Trails</button></span>`;
    document.getElementById("show").closest(".tl").append(box);
    this.buttons = [...box.querySelectorAll("button")];
    for (const b of this.buttons) b.addEventListener("click", () => this.toggle(b.dataset.over));
    onKey("E", () => this.toggle("echoes"));
    onKey("T", () => this.toggle("trails"));
    this.walk();
    this.show();
    this.canvas = document.getElementById("above");
    if (this.canvas) {
      new ResizeObserver(() => this.above()).observe(this.canvas);
      this.clock.addEventListener("frame", () => this.above());
      this.canvas.addEventListener("click", (e) => this.pick(e));
    }
    document.addEventListener("e-theme", () => {
      this.walk();
      this.show();
      this.above();
    });
  }

  toggle(what) {
    this.on[what] = !this.on[what];
    localStorage.setItem(what, this.on[what] ? "1" : "0");
    this.show();
  }

  show() {
    this.group.visible = this.on.echoes;
    this.ways.visible = this.on.trails;
    for (const b of this.buttons) {
      b.classList.toggle("on", this.on[b.dataset.over]);
      b.setAttribute("aria-pressed", this.on[b.dataset.over]);
    }
    this.stage.dirty = true;
  }

  // Once through every figure: where its hips go, and its bones at even moments.
  walk() {
    this.group.clear();
    this.ways.clear();
    const v = new THREE.Vector3();
    const own = Number(document.getElementById("assemble-form")?.dataset.node);
    this.paths = this.stage.figures.map((figure) => {
      const count = Math.floor(figure.data.length / figure.stride),
        apart = step * Math.ceil(Math.max(every, count / most) / step),
        path = [],
        pos = [],
        col = [];
      for (let f = 0; f < count; f += step) {
        figure.update(f);
        figure.hips(v);
        path.push([f, v.x, v.y, v.z]);
        if (f % apart || figure.info.node !== own) continue;
        for (const [a, b] of figure.pairs) {
          const side = figure.info.joints[b].side,
            c = this.stage.palette[side] ?? this.stage.palette.text;
          for (const j of [a, b]) {
            figure.bones[j].getWorldPosition(v);
            pos.push(v.x, v.y, v.z);
            col.push(c.r, c.g, c.b);
          }
        }
      }
      this.group.add(this.lines(THREE.LineSegments, pos, { vertexColors: true, opacity: 0.42 }, col));
      const colour = path.length > 1 ? this.stage.palette.text : null;
      if (colour)
        this.ways.add(
          this.lines(
            THREE.Line,
            path.flatMap(([, x, , z]) => [x, 0.012, z]),
            { color: colour, opacity: 0.7 },
          ),
        );
      return { name: figure.info.name, node: figure.info.node, path };
    });
    for (const figure of this.stage.figures) figure.update(this.stage.frame);
    this.stage.dirty = true;
  }

  lines(Kind, positions, look, colours) {
    const geometry = new THREE.BufferGeometry();
    geometry.setAttribute("position", new THREE.Float32BufferAttribute(positions, 3));
    if (colours) geometry.setAttribute("color", new THREE.Float32BufferAttribute(colours, 3));
    const lines = new Kind(geometry, new THREE.LineBasicMaterial({ transparent: true, depthWrite: false, toneMapped: false, ...look }));
    lines.frustumCulled = false;
    return lines;
  }

  // Metres to pixels of the plan: everything in it, a metre around.
  frame() {
    const all = this.paths.flatMap((p) => p.path),
      [w, h] = [this.canvas.clientWidth, this.canvas.clientHeight];
    const xs = all.map((p) => p[1]),
      zs = all.map((p) => p[3]),
      mid = [(Math.min(...xs) + Math.max(...xs)) / 2, (Math.min(...zs) + Math.max(...zs)) / 2],
      size = Math.max(2, Math.max(...xs) - Math.min(...xs) + 1.4, ((Math.max(...zs) - Math.min(...zs) + 1.4) * w) / h),
      scale = w / size;
    return { w, h, scale, mid, at: (x, z) => [w / 2 + (x - mid[0]) * scale, h / 2 + (z - mid[1]) * scale] };
  }

  above() {
    if (!this.canvas?.clientWidth || !this.paths.some((p) => p.path.length)) return;
    const { w, h, scale, mid, at } = this.frame(),
      ratio = Math.min(2, devicePixelRatio),
      css = (n) => getComputedStyle(document.documentElement).getPropertyValue("--e-" + n).trim();
    this.canvas.width = w * ratio;
    this.canvas.height = h * ratio;
    const g = this.canvas.getContext("2d");
    g.scale(ratio, ratio);
    g.strokeStyle = css("line");
    g.lineWidth = 1;
    for (let k = Math.ceil(mid[0] - w / 2 / scale); k < mid[0] + w / 2 / scale; k++) {
      const x = Math.round(at(k, 0)[0]) + 0.5;
      g.strokeRect(x, -1, 0, h + 2);
    }
    for (let k = Math.ceil(mid[1] - h / 2 / scale); k < mid[1] + h / 2 / scale; k++) {
      const y = Math.round(at(0, k)[1]) + 0.5;
      g.strokeRect(-1, y, w + 2, 0);
    }
    g.font = `12px ${css("font")}`;
    for (const { name, node, path } of this.paths) {
      const lane = this.page.lanes.lanes.find((l) => l.node === node),
        chosen = lane?.chosen !== undefined ? lane.blocks[lane.chosen] : null;
      path.forEach(([f, x, , z], i) => {
        if (!i) return;
        const mine = chosen && f >= chosen[0] && f <= chosen[1];
        g.strokeStyle = mine ? css("accent") : css("text-2");
        g.lineWidth = mine ? 2.6 : 1.5;
        g.beginPath();
        g.moveTo(...at(path[i - 1][1], path[i - 1][3]));
        g.lineTo(...at(x, z));
        g.stroke();
      });
      const here = path[Math.min(path.length - 1, Math.round(this.clock.frame / step))];
      if (!here) continue;
      const [x, y] = at(here[1], here[3]);
      g.fillStyle = css("text");
      g.beginPath();
      g.arc(x, y, 5, 0, 7);
      g.fill();
      g.textAlign = x > w - 80 ? "right" : "left";
      g.fillText(name, x + (x > w - 80 ? -8 : 8), y - 6);
    }
  }

  // A click on the plan goes to the moment that was nearest there.
  pick(e) {
    const { at } = this.frame(),
      box = this.canvas.getBoundingClientRect();
    let best = null,
      least = 400;
    for (const { path } of this.paths)
      for (const [f, x, , z] of path) {
        const [a, b] = at(x, z),
          d = (a - e.clientX + box.left) ** 2 + (b - e.clientY + box.top) ** 2;
        if (d < least) [best, least] = [f, d];
      }
    if (best !== null) this.clock.set(best);
  }
}
