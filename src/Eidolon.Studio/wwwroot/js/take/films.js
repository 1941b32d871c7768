import { onKey } from "../app.js";
import { Cameras } from "../live/cameras.js";
import { token } from "../token.js";
import { Film, drawScene, sideOf } from "./picture.js";

const svgElement = (name, attributes = {}) => {
  const e = document.createElementNS("http://www.w3.org/2000/svg", name);
  for (const [k, v] of Object.entries(attributes)) e.setAttribute(k, v);
  return e;
};
const floats = async (url) => new Float32Array(await (await fetch(url)).arrayBuffer());
const sure = 0.6;
const words = (name) => name.replace(/1$/, "").replace(/[LR]$/, "");

// The films of a take at Solve: one picture large, its points to be dragged, the others small; all in step with the Stage.
export class Films {
  static async open(page, root) {
    const films = new Films(page, root);
    await films.load();
    films.show(Number(sessionStorage.getItem(films.key) ?? 0));
    document.body.dataset.ready = "true";
    return films;
  }

  constructor(page, root) {
    Object.assign(this, page);
    this.root = root;
    this.canvas = root.querySelector("canvas.scene");
    this.svg = root.querySelector("svg");
    this.lens = root.querySelector("canvas.lens");
    this.node = Number(root.dataset.node);
    this.key = `film:${this.state.api}`;
    this.selected = null;
    this.views = [];
    this.clock.addEventListener("frame", () => this.draw());
    this.state.addEventListener("changed", async () => {
      await this.load();
      this.build();
    });
    document.getElementById("part-left").addEventListener("click", (e) => {
      const item = e.target.closest("[data-film]");
      if (item) this.show(Number(item.dataset.film));
    });
    document.addEventListener("e-finding", (e) => this.found(e.detail));
    this.lanes.addEventListener("lane", (e) => {
      if (e.detail.lane.film !== undefined) this.show(e.detail.lane.film);
    });
    document.addEventListener("click", (e) => {
      if (e.target.closest("[data-pin]")) this.pin();
      if (e.target.closest("[data-back]")) this.back();
    });
    onKey("P", () => this.pin());
    onKey("X", () => this.back());
    onKey("⇧V", () => this.show((this.current + 1) % this.films.length));
    this.handle();
    new ResizeObserver(() => this.draw()).observe(root);
    document.addEventListener("e-theme", () => this.cameras?.paint(this.stage.palette));
  }

  async load() {
    const at = `${this.state.api}/films/${this.node}`,
      about = await (await fetch(at)).json();
    this.films = await Promise.all(
      about.map(async (a, k) => {
        const strokes = this.films?.[k]?.strokes ?? (await floats(`${at}/${k}/picture`));
        return new Film(a, await floats(`${at}/${k}`), strokes);
      }),
    );
    this.placeCameras();
  }

  get film() {
    return this.films?.[this.current];
  }

  get seconds() {
    return (this.clock.frame + (this.state.scene.figures[0]?.first ?? 0)) / this.clock.rate;
  }

  get frame() {
    return this.film.frameAt(this.seconds);
  }

  show(k) {
    this.current = Math.max(0, Math.min(this.films.length - 1, k));
    sessionStorage.setItem(this.key, this.current);
    this.selected = null;
    this.build();
  }

  // The elements of a film's points; they are moved, not made, while time goes.
  build() {
    this.root.querySelector("[data-number]").textContent = this.current + 1;
    this.root.querySelector("[data-name]").textContent = this.film.about.name;
    this.lines = this.film.links.map(([a]) => svgElement("line", { class: `link ${sideOf(this.film.shown[a]).toLowerCase()}` }));
    this.far = this.film.shown.map((p) => svgElement("line", { class: "far" }));
    this.ghosts = this.film.shown.map(() => svgElement("circle", { class: "body" }));
    this.dots = this.film.shown.map((p, i) => {
      const dot = svgElement("path", { class: `dot ${sideOf(p).toLowerCase()}`, "data-point": p, tabindex: "-1" });
      dot.append(svgElement("title"));
      dot.firstChild.textContent = p;
      dot.dataset.index = i;
      return dot;
    });
    this.ring = svgElement("circle", { class: "chosen" });
    this.svg.replaceChildren(...this.lines, ...this.far, ...this.ghosts, this.ring, ...this.dots);
    if (this.selected !== null && this.selected >= this.dots.length) this.selected = null;
    this.draw();
  }

  // The part of the picture that is shown, of the shape of the place it has.
  view() {
    const { clientWidth: w, clientHeight: h } = this.root;
    const v = this.views[this.current] ?? this.film.bounds(this.frame);
    const shape = w / Math.max(1, h);
    const wide = Math.max(v.w, v.h * shape),
      high = wide / shape;
    return { x: v.x + (v.w - wide) / 2, y: v.y + (v.h - high) / 2, w: wide, h: high };
  }

  draw() {
    if (!this.film || !this.dots) return;
    const v = this.view(),
      f = this.frame,
      inside = f >= 0 && f < this.film.about.frames,
      ratio = Math.min(2, devicePixelRatio);
    this.canvas.width = this.root.clientWidth * ratio;
    this.canvas.height = this.root.clientHeight * ratio;
    drawScene(this.canvas, this.film, f, v);
    this.svg.setAttribute("viewBox", `${v.x} ${v.y} ${v.w} ${v.h}`);
    this.unit = v.w / Math.max(1, this.root.clientWidth);
    this.svg.style.setProperty("--u", this.unit);
    this.root.querySelector("[data-frame]").textContent = inside ? f : "no picture";
    const points = this.film.shown.map((_, i) => (inside ? this.at(f, i) : [0, 0, 0]));
    this.lines.forEach((line, k) => {
      const [a, b] = this.film.links[k].map((i) => points[i]);
      place(line, a[2] > 0 && b[2] > 0, { x1: a[0], y1: a[1], x2: b[0], y2: b[1] });
      line.classList.toggle("guessed", Math.min(a[2], b[2]) < sure);
    });
    this.dots.forEach((dot, i) => this.drawPoint(dot, i, f, points[i]));
    this.drawThumbs();
    this.tell();
  }

  drawPoint(dot, i, f, [u, v, c]) {
    const r = 5 * this.unit,
      body = c > 0 || this.selected === i ? this.film.body(f, i) : null,
      hand = this.film.hand.has(`${f} ${this.film.shown[i]}`) || (this.moving?.i === i && this.moving.far);
    dot.classList.toggle("hand", hand);
    dot.classList.toggle("guessed", c < sure && !hand);
    dot.classList.toggle("on", this.selected === i);
    dot.style.setProperty("visibility", c > 0 ? "visible" : "hidden");
    if (c > 0)
      dot.setAttribute(
        "d",
        hand
          ? `M${u - r},${v - r}h${2 * r}v${2 * r}h${-2 * r}z`
          : `M${u - r},${v}a${r},${r} 0 1,0 ${2 * r},0a${r},${r} 0 1,0 ${-2 * r},0z`,
      );
    const off = body && c > 0 ? Math.hypot(body[0] - u, body[1] - v) : 0,
      far = off > 14;
    place(this.far[i], far, far ? { x1: u, y1: v, x2: body[0], y2: body[1] } : {});
    place(this.ghosts[i], !!body && (far || this.selected === i), body ? { cx: body[0], cy: body[1], r: 4 * this.unit } : {});
    if (this.selected === i) place(this.ring, c > 0, { cx: u, cy: v, r: 11 * this.unit });
    if (this.selected === null) place(this.ring, false, {});
  }

  // A point as it is shown: where the hand holds it while it is dragged.
  at(f, i) {
    if (this.moving?.i === i) return [...this.moving.to, 1];
    return this.film.at(f, i);
  }

  drawThumbs() {
    document.querySelectorAll("#films [data-film]").forEach((item) => {
      const k = Number(item.dataset.film),
        film = this.films[k],
        canvas = item.querySelector("canvas"),
        b = film.bounds(film.frameAt(this.seconds)),
        wide = Math.max(b.w, (b.h * 16) / 9);
      item.classList.toggle("sel", k === this.current);
      drawScene(canvas, film, film.frameAt(this.seconds), {
        x: b.x + (b.w - wide) / 2,
        y: b.y + (b.h - (wide * 9) / 16) / 2,
        w: wide,
        h: (wide * 9) / 16,
      });
    });
  }

  // ---- what the panel says of the chosen point ----
  tell() {
    const box = document.getElementById("point");
    if (!box) return;
    const i = this.selected,
      f = this.frame;
    box.hidden = i === null;
    if (i === null) return;
    const name = this.film.shown[i],
      [u, v, c] = this.at(f, i),
      body = this.film.body(f, i),
      side = sideOf(name),
      hand = this.film.hand.has(`${f} ${name}`);
    const set = (what, text) => {
      box.querySelector(`[data-${what}]`).textContent = text;
    };
    box.querySelector("[data-side]").className = `e-side ${side.toLowerCase()}`;
    set("side", side);
    set("name", words(name));
    set("where", `camera ${this.current + 1}, picture ${f}`);
    set("sure-word", hand ? "Put by hand" : "The tracker is sure by");
    set("sure", hand ? "" : c > 0 ? `${Math.round(100 * c)} %` : "not seen");
    set("off", body && c > 0 ? `${Math.hypot(body[0] - u, body[1] - v).toFixed(0)} px` : "–");
    box.querySelector("[data-back]").disabled = !hand;
  }

  // ---- choosing, dragging, looking nearer ----
  handle() {
    const spot = (e) => {
      const b = this.root.getBoundingClientRect(),
        v = this.view();
      return [v.x + ((e.clientX - b.left) / b.width) * v.w, v.y + ((e.clientY - b.top) / b.height) * v.h];
    };
    this.svg.addEventListener("pointerdown", (e) => {
      this.svg.setPointerCapture(e.pointerId);
      const dot = this.nearest(spot(e));
      this.clock.pause();
      if (dot < 0) {
        this.pan = { from: spot(e), view: this.view(), moved: false };
        return;
      }
      this.selected = dot;
      const [u, v] = this.film.at(this.frame, dot);
      this.moving = { i: dot, from: spot(e), start: [u, v], to: [u, v], far: false };
      this.draw();
    });
    this.svg.addEventListener("pointermove", (e) => {
      if (this.moving) {
        const at = spot(e),
          d = [at[0] - this.moving.from[0], at[1] - this.moving.from[1]];
        this.moving.far ||= Math.hypot(...d) > 3 * this.unit;
        this.moving.to = this.moving.far ? [this.moving.start[0] + d[0], this.moving.start[1] + d[1]] : this.moving.start;
        this.draw();
        this.magnify();
      } else if (this.pan) {
        const b = this.root.getBoundingClientRect(),
          { view, from } = this.pan;
        const x = view.x + ((e.clientX - b.left) / b.width) * view.w - from[0],
          y = view.y + ((e.clientY - b.top) / b.height) * view.h - from[1];
        this.pan.moved ||= Math.hypot(x, y) > 3 * this.unit;
        if (this.pan.moved) this.views[this.current] = { ...view, x: view.x - x, y: view.y - y };
        this.draw();
      }
    });
    this.svg.addEventListener("pointerup", () => {
      const { moving, pan } = this;
      this.moving = this.pan = null;
      this.lens.hidden = true;
      if (moving?.far) this.put(moving.i, moving.to);
      if (pan && !pan.moved) this.selected = null;
      this.draw();
    });
    this.byKeys();
    this.svg.addEventListener(
      "wheel",
      (e) => {
        e.preventDefault();
        const [x, y] = spot(e),
          v = this.view(),
          k = e.deltaY > 0 ? 1.2 : 1 / 1.2;
        if (v.w * k > 60 && v.w * k < 3 * this.film.about.camera.width)
          this.views[this.current] = { x: x - (x - v.x) * k, y: y - (y - v.y) * k, w: v.w * k, h: v.h * k };
        this.draw();
      },
      { passive: false },
    );
    this.svg.addEventListener("dblclick", () => {
      delete this.views[this.current];
      this.draw();
    });
  }

  // Without a mouse: Alt and the arrows move the chosen point a pixel, with Shift ten; letting go of Alt keeps it.
  byKeys() {
    const ways = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
    document.addEventListener("keydown", (e) => {
      const way = ways[e.key];
      if (!e.altKey || !way || this.selected === null || e.target.closest?.("[data-row]")) return;
      e.preventDefault();
      const [u, v, c] = this.at(this.frame, this.selected),
        far = e.shiftKey ? 10 : 1;
      if (!(c > 0)) return;
      this.moving = { i: this.selected, to: [u + way[0] * far, v + way[1] * far], far: true };
      this.draw();
      this.magnify();
    });
    document.addEventListener("keyup", (e) => {
      if (e.key !== "Alt" || !this.moving) return;
      const { i, to } = this.moving;
      this.moving = null;
      this.lens.hidden = true;
      this.put(i, to);
      this.draw();
    });
  }

  nearest([x, y]) {
    const f = this.frame;
    if (f < 0 || f >= this.film.about.frames) return -1;
    let [best, least] = [-1, 12 * this.unit];
    this.film.shown.forEach((_, i) => {
      const [u, v, c] = this.film.at(f, i),
        d = Math.hypot(u - x, v - y);
      if (c > 0 && d < least) [best, least] = [i, d];
    });
    return best;
  }

  // What is under the hand, four times as large.
  magnify() {
    if (!this.moving?.far) return;
    this.lens.hidden = false;
    const [u, v] = this.moving.to,
      half = 18 * this.unit;
    drawScene(this.lens, this.film, this.frame, { x: u - half, y: v - half, w: 2 * half, h: 2 * half });
    const g = this.lens.getContext("2d");
    g.setTransform(1, 0, 0, 1, 0, 0);
    g.strokeStyle = token("accent");
    g.lineWidth = 2;
    g.strokeRect(this.lens.width / 2 - 7, this.lens.height / 2 - 7, 14, 14);
  }

  // ---- corrections: each is an entry of the Ledger; the solve waits until it is asked for ----
  put(i, [u, v]) {
    const { film } = this,
      f = this.frame,
      point = film.shown[i],
      k = (f * film.about.points.length + film.columns[i]) * 3;
    film.points.set([u, v, 1], k);
    film.hand.add(`${f} ${point}`);
    this.send([{ film: this.current, frame: f, point, u: round(u), v: round(v) }]);
  }

  pin() {
    if (this.selected === null) return;
    const [u, v, c] = this.film.at(this.frame, this.selected);
    if (c > 0) this.put(this.selected, [u, v]);
  }

  back() {
    if (this.selected === null) return;
    const point = this.film.shown[this.selected],
      f = this.frame;
    if (this.film.hand.has(`${f} ${point}`)) this.send([{ film: this.current, frame: f, point, back: true }]);
  }

  send(points) {
    this.state.send("Do", { operation: "film-points", parameters: JSON.stringify({ points }), node: this.node });
  }

  // A Finding of a film: that film, and the point of the part that is farthest off there.
  found({ kind, subject, other }) {
    if (kind !== "film") return;
    this.show(Number(other));
    const f = this.frame,
      side = subject.split(" in ")[0].slice(-1),
      arm = subject.startsWith("Arm") || subject.startsWith("Hand"),
      leg = subject.startsWith("Leg");
    const mine = (p) =>
      arm ? sideOf(p) === side && /^(Shoulder|Elbow|Wrist)/.test(p) : leg ? sideOf(p) === side && /^(Hip|Knee|Ankle)/.test(p) : true;
    let most = -1;
    this.film.shown.forEach((p, i) => {
      const [u, v, c] = f >= 0 && f < this.film.about.frames ? this.film.at(f, i) : [0, 0, 0],
        body = c > 0 && mine(p) ? this.film.body(f, i) : null,
        off = body ? Math.hypot(body[0] - u, body[1] - v) : -1;
      if (off > most) [most, this.selected] = [off, i];
    });
    this.draw();
  }

  // Where the cameras stand, on the Stage.
  placeCameras() {
    this.cameras?.remove();
    this.cameras = new Cameras(this.stage, { cameras: this.films.map((f) => f.about.drawn).filter(Boolean), cells: [] });
  }
}

function place(element, on, attributes) {
  element.style.setProperty("visibility", on ? "visible" : "hidden");
  if (on) for (const [k, v] of Object.entries(attributes)) element.setAttribute(k, v);
}

const round = (x) => Math.round(x * 100) / 100;
