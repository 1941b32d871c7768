import { token } from "../token.js";

const near = 12,
  handle = 7;

// A clip moved and turned on the floor by hand: its way is dragged in the plan from above, its far end turns it about where it meets.
export class Placing {
  constructor(echoes) {
    this.echoes = echoes;
    this.canvas = echoes.canvas;
    this.canvas.addEventListener("pointerdown", (e) => this.take(e));
    this.canvas.addEventListener("pointermove", (e) => this.hint(e));
  }

  get tracks() {
    return window.eidolon.tracks;
  }

  // The way of the clip that is chosen: places in the plan, pixels.
  way() {
    const at = this.tracks?.at,
      ground = this.echoes.ground,
      path = at && ground && this.echoes.paths.find((p) => p.node === at.lane.node)?.path;
    if (!path) return null;
    const [from, to] = at.lane.blocks[at.clip],
      own = path.filter(([f]) => f >= from && f <= to);
    return own.length > 1 ? { at, own, places: own.map(([, x, , z]) => ground.at(x, z)), scale: ground.scale } : null;
  }

  point(e) {
    const box = this.canvas.getBoundingClientRect();
    return [e.clientX - box.left, e.clientY - box.top];
  }

  // What is under the pointer: the far end turns, anything else of the way moves.
  under(e) {
    const way = this.way();
    if (!way) return null;
    const [x, y] = this.point(e),
      off = ([a, b]) => Math.hypot(a - x, b - y);
    if (off(way.places.at(-1)) < near) return { ...way, how: "turn" };
    return Math.min(...way.places.map(off)) < near ? { ...way, how: "move" } : null;
  }

  hint(e) {
    if (this.drag) return;
    const hit = this.under(e);
    this.canvas.style.setProperty("cursor", hit ? (hit.how === "turn" ? "crosshair" : "grab") : "pointer");
  }

  take(e) {
    const hit = this.under(e);
    if (!hit || this.tracks.states.locked(hit.at.lane.node)) return;
    this.canvas.setPointerCapture(e.pointerId);
    this.drag = { ...hit, from: this.point(e), clips: this.tracks.definite(hit.at.lane) };
    const move = (m) => this.dragged(m),
      up = () => {
        this.canvas.removeEventListener("pointermove", move);
        this.canvas.removeEventListener("pointerup", up);
        this.dropped();
      };
    this.canvas.addEventListener("pointermove", move);
    this.canvas.addEventListener("pointerup", up);
  }

  dragged(e) {
    const d = this.drag,
      [x, y] = this.point(e),
      [dx, dy] = [x - d.from[0], y - d.from[1]];
    if (!d.moved && Math.hypot(dx, dy) < 3) return;
    d.moved = true;
    const was = d.clips[d.at.clip].moved ?? { x: 0, z: 0, turn: 0, axes: "scene" },
      round = (v, by) => Math.round(v / by) * by;
    if (d.how === "turn") {
      // The plan is seen from above, so that a turn to the left goes against the clock: x to the right, z down.
      const [cx, cy] = d.places[0],
        angle = (p) => Math.atan2(-(p[1] - cy), p[0] - cx),
        by = ((angle([x, y]) - angle(d.from)) * 180) / Math.PI;
      d.to = { ...was, turn: round(((was.turn + by + 540) % 360) - 180, 1) };
    } else {
      d.to = { ...was, x: was.x + dx / d.scale, z: was.z + dy / d.scale };
      if (was.axes === "own") {
        this.echoes.page.said("A clip that is put along its own axes is moved by its numbers");
        d.to = null;
        return;
      }
      d.to.x = round(d.to.x, 0.01);
      d.to.z = round(d.to.z, 0.01);
    }
    this.echoes.page.said(d.how === "turn" ? `turned by ${d.to.turn}°` : `put by ${d.to.x.toFixed(2)} × ${d.to.z.toFixed(2)} m`);
    this.show(x, y);
    const clips = structuredClone(d.clips);
    this.tracks.put(clips, d.at.clip, d.to);
    this.tracks.drag = { moved: true };
    this.tracks.try(d.at.lane, d.at.clip, this.echoes.clock.frame, clips);
  }

  // The way as it would be, over the plan.
  show(x, y) {
    const d = this.drag,
      g = this.canvas.getContext("2d"),
      [cx, cy] = d.places[0],
      turn = d.how === "turn" ? Math.atan2(y - cy, x - cx) - Math.atan2(d.from[1] - cy, d.from[0] - cx) : 0,
      place = ([a, b]) =>
        d.how === "turn"
          ? [cx + (a - cx) * Math.cos(turn) - (b - cy) * Math.sin(turn), cy + (a - cx) * Math.sin(turn) + (b - cy) * Math.cos(turn)]
          : [a + x - d.from[0], b + y - d.from[1]];
    this.echoes.above();
    g.save();
    g.strokeStyle = token("accent");
    g.lineWidth = 2;
    g.setLineDash([5, 4]);
    g.beginPath();
    for (const p of d.places) g.lineTo(...place(p));
    g.stroke();
    g.restore();
  }

  // The end that turns it, on the plan.
  mark(g) {
    const way = this.way();
    if (!way || this.drag) return;
    g.strokeStyle = token("accent");
    g.lineWidth = 2;
    g.beginPath();
    g.arc(...way.places.at(-1), handle, 0, 7);
    g.stroke();
  }

  dropped() {
    const d = this.drag;
    this.drag = null;
    this.tracks.drag = null;
    this.tracks.trying.done();
    if (!d.moved || !d.to) return;
    // The click that ends a drag looks for no moment.
    this.echoes.dragged = true;
    this.tracks.put(d.clips, d.at.clip, d.to);
    this.tracks.send(d.at.lane, d.clips);
  }
}
