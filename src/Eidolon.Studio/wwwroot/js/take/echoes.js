import * as THREE from "three";
import { onKey } from "../app.js";
import { token } from "../token.js";
import { Placing } from "./placing.js";

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
    this.paths = [];
    // Asked for and not here yet, or null.
    this.asked = null;
    this.walk();
    this.show();
    this.canvas = document.getElementById("above");
    if (this.canvas) {
      new ResizeObserver(() => this.plan()).observe(this.canvas);
      this.clock.addEventListener("frame", () => this.above());
      this.canvas.addEventListener("click", (e) => this.pick(e));
      this.placing = new Placing(this);
    }
    document.addEventListener("e-theme", () => this.renew());
  }

  // Other motions, or other colours.
  renew() {
    this.walk();
    this.show();
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

  // Where every track goes, and the bones of the one that is worked on at even moments.
  async walk() {
    // A question asked later is the one that counts, whichever is answered first.
    const asked = (this.asked = {});
    const scene = document.getElementById("main").dataset.scene,
      r = await fetch(`/api/scenes/${scene}/ways`),
      ways = r.ok ? await r.json() : null;
    if (asked !== this.asked) return;
    this.asked = null;
    if (!ways) return;
    const own = Number(document.getElementById("assemble-form")?.dataset.node);
    this.group.clear();
    this.ways.clear();
    this.paths = ways.map(({ node, step, path: flat, echoes }) => {
      const figure = this.stage.figures.find((f) => f.info.node === node),
        path = [];
      for (let k = 0; k < flat.length; k += 3) path.push([(k / 3) * step, flat[k], flat[k + 1], flat[k + 2]]);
      if (figure && node === own) this.echo(figure, echoes);
      if (path.length > 1)
        this.ways.add(
          this.lines(
            THREE.Line,
            path.flatMap(([, x, , z]) => [x, 0.012, z]),
            { color: this.stage.palette.text, opacity: 0.7 },
          ),
        );
      return { name: figure?.info.name ?? "", node, step, path };
    });
    this.stage.dirty = true;
    this.plan();
  }

  echo(figure, echoes) {
    const pos = [],
      col = [];
    for (const { places } of echoes)
      for (const [a, b] of figure.pairs) {
        const c = this.stage.palette[figure.info.joints[b].side] ?? this.stage.palette.text;
        for (const j of [a, b]) {
          pos.push(...places.slice(3 * j, 3 * j + 3));
          col.push(c.r, c.g, c.b);
        }
      }
    this.group.add(this.lines(THREE.LineSegments, pos, { vertexColors: true, opacity: 0.42 }, col));
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
    const [w, h] = [this.canvas.clientWidth, this.canvas.clientHeight],
      low = [Infinity, Infinity],
      high = [-Infinity, -Infinity];
    for (const { path } of this.paths)
      for (const [, x, , z] of path)
        [x, z].forEach((v, k) => {
          low[k] = Math.min(low[k], v);
          high[k] = Math.max(high[k], v);
        });
    const mid = [0, 1].map((k) => (low[k] + high[k]) / 2),
      size = Math.max(2, high[0] - low[0] + 1.4, ((high[1] - low[1] + 1.4) * w) / h),
      scale = w / size;
    return { w, h, scale, mid, at: (x, z) => [w / 2 + (x - mid[0]) * scale, h / 2 + (z - mid[1]) * scale] };
  }

  // The squares and the ways, drawn when something about them changed; who is where goes over them at every frame.
  plan() {
    if (!this.canvas?.clientWidth || !this.paths.some((p) => p.path.length)) return;
    this.ground = this.frame();
    const { w, h, scale, mid, at } = this.ground,
      ratio = Math.min(2, devicePixelRatio),
      sheet = document.createElement("canvas");
    sheet.width = this.canvas.width = w * ratio;
    sheet.height = this.canvas.height = h * ratio;
    const g = sheet.getContext("2d");
    g.scale(ratio, ratio);
    g.strokeStyle = token("line");
    g.lineWidth = 1;
    for (let k = Math.ceil(mid[0] - w / 2 / scale); k < mid[0] + w / 2 / scale; k++) g.strokeRect(Math.round(at(k, 0)[0]) + 0.5, -1, 0, h + 2);
    for (let k = Math.ceil(mid[1] - h / 2 / scale); k < mid[1] + h / 2 / scale; k++) g.strokeRect(-1, Math.round(at(0, k)[1]) + 0.5, w + 2, 0);
    for (const { node, path } of this.paths) {
      const lane = this.page.lanes.lanes.find((l) => l.node === node),
        chosen = lane?.chosen !== undefined ? lane.blocks[lane.chosen] : null;
      this.way(g, at, path, token("text-2"), 1.5);
      if (chosen)
        this.way(
          g,
          at,
          path.filter(([f]) => f >= chosen[0] && f <= chosen[1]),
          token("accent"),
          2.6,
        );
    }
    this.sheet = sheet;
    this.above();
  }

  way(g, at, path, colour, width) {
    g.strokeStyle = colour;
    g.lineWidth = width;
    g.beginPath();
    for (const [, x, , z] of path) g.lineTo(...at(x, z));
    g.stroke();
  }

  above() {
    if (!this.sheet) return;
    const { w, h, at } = this.ground,
      g = this.canvas.getContext("2d");
    g.setTransform(1, 0, 0, 1, 0, 0);
    g.clearRect(0, 0, this.canvas.width, this.canvas.height);
    g.drawImage(this.sheet, 0, 0);
    g.scale(this.canvas.width / w, this.canvas.height / h);
    this.placing.mark(g);
    g.font = `12px ${token("font")}`;
    g.fillStyle = token("text");
    for (const { name, step, path } of this.paths) {
      const here = path[Math.min(path.length - 1, Math.round(this.clock.frame / step))];
      if (!here) continue;
      const [x, y] = at(here[1], here[3]);
      g.beginPath();
      g.arc(x, y, 5, 0, 7);
      g.fill();
      g.textAlign = x > w - 80 ? "right" : "left";
      g.fillText(name, x + (x > w - 80 ? -8 : 8), y - 6);
    }
  }

  // A click on the plan goes to the moment that was nearest there.
  pick(e) {
    if (this.dragged) {
      this.dragged = false;
      return;
    }
    const { at } = this.ground,
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
