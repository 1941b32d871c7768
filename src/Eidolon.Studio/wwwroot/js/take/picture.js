import { drawStrokes } from "../stage/strokes.js";

// The picture of a witness camera: the room's floor through its lens, the strokes that draw what it saw, the tracker's points over them.
const pairs = [
  ["Neck", "Crown"],
  ["Neck", "Chest"],
  ["Chest", "Pelvis"],
  ...["L", "R"].flatMap((s) => [
    ["Neck", `Shoulder${s}`],
    [`Shoulder${s}`, `Elbow${s}`],
    [`Elbow${s}`, `Wrist${s}`],
    [`Wrist${s}`, `Knuckle${s}`],
    ["Pelvis", `Hip${s}`],
    [`Hip${s}`, `Knee${s}`],
    [`Knee${s}`, `Ankle${s}`],
    [`Ankle${s}`, `Heel${s}`],
    [`Ankle${s}`, `Toe${s}`],
  ]),
];

export const sideOf = (name) => (/[LR]1?$/.test(name) ? name.replace(/1$/, "").slice(-1) : "C");

// One film: its points, where the body has them, and its strokes; by its own frames.
export class Film {
  constructor(about, samples, strokes) {
    this.about = about;
    const n = about.points.length,
      m = about.carried.length;
    this.points = samples.subarray(0, about.frames * n * 3);
    this.places = samples.subarray(about.frames * n * 3);
    this.shown = about.carried.length ? about.carried : about.points.filter((p) => pairs.flat().includes(p));
    this.columns = this.shown.map((p) => about.points.indexOf(p));
    this.links = pairs.map((p) => p.map((name) => this.shown.indexOf(name))).filter(([a, b]) => a >= 0 && b >= 0);
    this.strokes = strokes;
    this.stride = strokes.length ? strokes.length / about.frames : 0;
    this.hand = new Set(about.fixes.map(([frame, point]) => `${frame} ${point}`));
    this.m = m;
  }

  // The film's own frame at a moment of the take, seconds.
  frameAt(seconds) {
    return Math.round((seconds - this.about.offset) * this.about.rate);
  }

  secondsAt(frame) {
    return frame / this.about.rate + this.about.offset;
  }

  at(frame, i) {
    const k = (frame * this.about.points.length + this.columns[i]) * 3;
    return [this.points[k], this.points[k + 1], this.points[k + 2]];
  }

  // Where the body has it; null when it has no such point there.
  body(frame, i) {
    if (!this.m) return null;
    const k = (frame * this.m + i) * 2,
      u = this.places[k];
    return Number.isFinite(u) ? [u, this.places[k + 1]] : null;
  }

  // The part of the picture in which the performer is around a frame, with room; it goes along smoothly.
  bounds(frame) {
    this.boxes ??= this.follow();
    const f = Math.max(0, Math.min(this.about.frames - 1, frame)),
      [l, t, r, b] = [0, 1, 2, 3].map((k) => this.boxes[f * 4 + k]);
    if (!Number.isFinite(l + t + r + b)) return { x: 0, y: 0, w: this.about.camera.width, h: this.about.camera.height };
    const room = 0.16 * Math.max(r - l, b - t);
    return { x: l - room, y: t - room, w: r - l + 2 * room, h: b - t + 2.6 * room };
  }

  // Left, top, right and bottom of what is surely seen: the widest of a second around each frame, then the mean of a second.
  follow() {
    const n = this.about.frames,
      half = Math.round(this.about.rate / 2),
      own = new Float64Array(n * 4).fill(NaN);
    for (let f = 0; f < n; f++)
      for (let i = 0; i < this.shown.length; i++) {
        const [u, v, c] = this.at(f, i);
        if (c < 0.5) continue;
        [u, v, u, v].forEach((x, k) => {
          const old = own[f * 4 + k];
          own[f * 4 + k] = Number.isNaN(old) ? x : k < 2 ? Math.min(old, x) : Math.max(old, x);
        });
      }
    const over = (from, join) => {
      const to = new Float64Array(n * 4);
      for (let f = 0; f < n; f++)
        for (let k = 0; k < 4; k++) {
          const values = [];
          for (let g = Math.max(0, f - half); g <= Math.min(n - 1, f + half); g++)
            if (!Number.isNaN(from[g * 4 + k])) values.push(from[g * 4 + k]);
          to[f * 4 + k] = values.length ? join(values, k) : NaN;
        }
      return to;
    };
    const wide = over(own, (values, k) => (k < 2 ? Math.min(...values) : Math.max(...values)));
    return over(wide, (values) => values.reduce((a, b) => a + b) / values.length);
  }
}

// World to pixels of a camera; null behind it.
function project(c, x, y, z) {
  const r = c.rotation,
    t = c.translation;
  const cx = r[0] * x + r[1] * y + r[2] * z + t[0],
    cy = r[3] * x + r[4] * y + r[5] * z + t[1],
    cz = r[6] * x + r[7] * y + r[8] * z + t[2];
  return cz < 0.2 ? null : [(c.focal * cx) / cz + c.centre[0], (c.focal * cy) / cz + c.centre[1]];
}

// Draws the room, its floor and the strokes of a frame into a canvas that shows the part `view` of the picture.
export function drawScene(canvas, film, frame, view) {
  const g = canvas.getContext("2d"),
    c = film.about.camera,
    s = canvas.width / view.w;
  g.setTransform(1, 0, 0, 1, 0, 0);
  g.fillStyle = "#1c1722";
  g.fillRect(0, 0, canvas.width, canvas.height);
  g.setTransform(s, 0, 0, s, -view.x * s, -view.y * s);
  const horizon = c.rotation ? (project(c, ...ahead(c, 60)) ?? [0, c.height * 0.4])[1] : c.height * 0.55;
  const wall = g.createLinearGradient(0, horizon - c.height, 0, horizon);
  wall.addColorStop(0, "#231d2b");
  wall.addColorStop(1, "#4f4254");
  g.fillStyle = wall;
  g.fillRect(-c.width, horizon - 2 * c.height, 3 * c.width, 2 * c.height);
  const ground = g.createLinearGradient(0, horizon, 0, horizon + c.height * 0.8);
  ground.addColorStop(0, "#3d333d");
  ground.addColorStop(1, "#2a232c");
  g.fillStyle = ground;
  g.fillRect(-c.width, horizon, 3 * c.width, 2 * c.height);
  if (c.rotation) floor(g, c);
  if (film.stride && frame >= 0 && frame < film.about.frames)
    drawStrokes(g, film.strokes.subarray(frame * film.stride, (frame + 1) * film.stride));
}

// A place on the floor far ahead of a camera.
function ahead(c, far) {
  const r = c.rotation,
    t = c.translation;
  const eye = [0, 1, 2].map((k) => -(r[k] * t[0] + r[3 + k] * t[1] + r[6 + k] * t[2])),
    long = Math.hypot(r[6], r[8]) || 1;
  return [eye[0] + (r[6] / long) * far, 0, eye[2] + (r[8] / long) * far];
}

// Squares of half a metre around the middle of the room.
function floor(g, c) {
  g.lineWidth = 1.5;
  for (let k = -8; k <= 8; k++) {
    g.strokeStyle = `rgb(150 132 170 / ${k % 2 ? 0.14 : 0.3})`;
    for (const along of [true, false]) {
      g.beginPath();
      let pen = false;
      for (let j = -16; j <= 16; j++) {
        const p = along ? project(c, k / 2, 0, j / 4) : project(c, j / 4, 0, k / 2);
        if (p) pen ? g.lineTo(...p) : g.moveTo(...p);
        pen = !!p;
      }
      g.stroke();
    }
  }
}
