import { drawStrokes } from "../stage/strokes.js";

// The witness camera's picture as the stand-in draws it, with the points its tracker found.
const width = 1920,
  height = 1080,
  points = 67,
  body = 25;
const lines = [
  [0, 1],
  [1, 4],
  [4, 5],
  [5, 6],
  [4, 7],
  [4, 8],
  [7, 9],
  [8, 10],
  [9, 11],
  [10, 12],
  [11, 13],
  [12, 14],
  [6, 15],
  [6, 16],
  [15, 17],
  [16, 18],
  [17, 19],
  [18, 20],
  [19, 21],
  [20, 22],
  [19, 23],
  [20, 24],
];

export class WitnessPicture {
  constructor(root) {
    this.root = root;
    this.canvas = root.querySelector("canvas");
    this.camera = 1;
    root.querySelector("#witness-next").addEventListener("click", () => {
      this.next = true;
    });
    setInterval(() => this.fetch(), 100);
  }

  show(devices) {
    const on = devices.filter((d) => d.stream.startsWith("witness") && d.connected);
    this.root.hidden = on.length === 0;
    if (!on.length) return;
    let k = on.findIndex((d) => d.stream === `witness-${this.camera}`);
    if (k < 0 || this.next) k = (k + 1) % on.length;
    this.next = false;
    this.camera = Number(on[k].stream.slice(-1));
    this.root.querySelector("[data-name]").textContent = `${on[k].name}, ${on[k].detail}`;
  }

  async fetch() {
    if (this.root.hidden || document.hidden || this.busy) return;
    this.busy = true;
    try {
      this.draw(new Float32Array(await (await fetch(`/api/live/witness/${this.camera}`)).arrayBuffer()));
    } catch {
      /* the next picture comes in a tenth of a second */
    } finally {
      this.busy = false;
    }
  }

  draw(d) {
    if (d.length < points * 3) return;
    const g = this.canvas.getContext("2d"),
      s = this.canvas.width / width;
    g.setTransform(s, 0, 0, s, 0, 0);
    const sky = g.createLinearGradient(0, 0, 0, height);
    sky.addColorStop(0, "#2c2436");
    sky.addColorStop(0.62, "#57435a");
    sky.addColorStop(0.63, "#3a2f38");
    sky.addColorStop(1, "#241d26");
    g.fillStyle = sky;
    g.fillRect(0, 0, width, height);
    drawStrokes(g, d.subarray(points * 3));
    g.lineWidth = 4;
    for (const [a, b] of lines) {
      if (d[a * 3 + 2] < 0.2 || d[b * 3 + 2] < 0.2) continue;
      g.strokeStyle = "rgb(242 236 223 / .75)";
      g.setLineDash(Math.min(d[a * 3 + 2], d[b * 3 + 2]) < 0.6 ? [10, 10] : []);
      g.beginPath();
      g.moveTo(d[a * 3], d[a * 3 + 1]);
      g.lineTo(d[b * 3], d[b * 3 + 1]);
      g.stroke();
    }
    g.setLineDash([]);
    for (let i = 0; i < body; i++) {
      if (d[i * 3 + 2] < 0.2) continue;
      g.fillStyle = "#f2ecdf";
      g.beginPath();
      g.arc(d[i * 3], d[i * 3 + 1], d[i * 3 + 2] < 0.6 ? 5 : 9, 0, 7);
      g.fill();
    }
  }
}
