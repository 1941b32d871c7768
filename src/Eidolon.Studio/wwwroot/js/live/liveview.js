import * as THREE from "three";
import { Stage } from "../stage/stage.js";
import { FrameSamples } from "../stage/samples.js";
import { Cameras } from "./cameras.js";
import { Props } from "./props.js";
import { connection } from "./connection.js";

const bodySize = 256,
  propNames = 16384;

// The Stage while it happens: points with the names they have now, figures, props, cameras, coverage and rays.
export class LiveView {
  constructor(element) {
    this.stage = new Stage(element, null);
    this.shown = "markers";
    this.rays = false;
    this.marks = null;
    connection.on("frame", (points, marks, figures, props) => {
      this.frame(points, marks, figures, props);
      // The next frame is asked for once this one is drawn; a hidden page asks for none.
      requestAnimationFrame(() => connection.send("Seen").catch(() => {}));
    });
    document.addEventListener("e-theme", () => this.cameras?.paint(this.stage.palette));
  }

  async load() {
    this.loaded = false;
    const scene = await (await fetch("/api/live/scene")).json();
    const stage = this.stage;
    this.slots = scene.slots;
    this.scene = scene;
    this.info = Array.from({ length: scene.slots }, (_, i) => ({ name: `Dot ${i + 1}`, side: "N", named: false }));
    this.links = scene.bodies.flatMap((b, n) => b.links.map(([a, c]) => [n * bodySize + a, n * bodySize + c]));
    stage.setMarkers(this.info, this.links, new FrameSamples(new Float32Array(scene.slots * 3).fill(NaN), scene.slots));
    stage.markers.links = this.links.map(() => null);
    for (const f of stage.figures) {
      stage.content.remove(f.group);
      f.tag?.remove();
    }
    stage.figures = [];
    this.figures = [];
    // Who is driven stands beside who drives: a step to the side, so that both are seen.
    for (const b of [...scene.bodies, ...scene.characters.map((figure) => ({ figure, beside: true }))]) {
      const data = new Float32Array(3 + 4 * b.figure.joints.length);
      for (let j = 0; j < b.figure.joints.length; j++) data[6 + j * 4] = 1;
      const figure = await stage.addFigure(b.figure, data);
      figure.group.visible = false;
      figure.beside = !!b.beside;
      if (b.beside) figure.group.position.set(1.3, 0, 0);
      figure.tag.textContent = b.figure.name;
      this.figures.push(figure);
    }
    this.show(this.shown);
    this.cameras?.remove();
    this.cameras = new Cameras(stage, scene);
    this.props?.remove();
    this.props = new Props(stage, scene.props);
    this.loaded = true;
    stage.dirty = true;
  }

  // No camera sends: what was seen last is not there any more.
  // Nothing is seen any more; a suit goes on moving its wearer.
  clear(worn) {
    this.stage.markers?.samples.data.fill(NaN);
    if (!worn) for (const f of this.figures ?? []) f.group.visible = false;
    this.stage.dirty = true;
  }

  show(kind) {
    this.shown = kind;
    for (const f of this.figures ?? []) f.mode(kind === "both" && !f.beside ? "ghost" : "body");
    if (this.stage.markers) this.stage.markers.shown = { dots: kind !== "figures", links: kind !== "figures" };
    this.stage.dirty = true;
  }

  frame(points, marks, figures, props) {
    const stage = this.stage;
    if (!this.loaded || document.hidden || this.hold) return;
    // The packet's bytes may start at any offset; typed arrays want four.
    stage.markers.samples.data = new Float32Array(points.slice().buffer);
    const bytes = marks.slice().buffer;
    this.name(new Int16Array(bytes));
    this.marks = new Uint16Array(bytes);
    const floats = new Float32Array(figures.slice().buffer);
    let at = 0;
    for (const f of this.figures) {
      // Who wears a suit that no camera sees has no markers to show.
      const found = floats[at] === 2 || (floats[at] === 1 && (this.shown !== "markers" || f.beside));
      if (f.beside && this.later != null) f.tag.textContent = `${f.info.name}, ${this.later.toFixed(1)} ms later`;
      f.tagged = floats[at] === 1;
      if (f.tagged) f.data.set(floats.subarray(at + 1, at + 1 + f.stride));
      f.group.visible = found;
      at += 1 + f.stride;
    }
    this.props.update(new Float32Array(props.slice().buffer));
    this.lookThrough();
    this.cameras.drawRays(this.rays ? stage.markers : null, this.marks);
    stage.dirty = true;
  }

  // The view of a camera that is tied to a prop: it looks along the prop's +Z.
  lookThrough() {
    const item = this.through && this.props.items.find((p) => p.name === this.through);
    if (!item?.group.visible) return;
    const { camera, controls } = this.stage;
    camera.position.copy(item.group.position);
    controls.target.copy(new THREE.Vector3(0, 0, 2).applyQuaternion(item.group.quaternion).add(item.group.position));
    controls.update();
  }

  name(marks) {
    let changed = false;
    const slotOf = new Map();
    for (let i = 0; i < this.slots; i++) {
      const mark = marks[i * 2],
        info = this.info[i];
      if (mark >= 0) slotOf.set(mark, i);
      if (info.mark === mark) continue;
      changed = true;
      info.mark = mark;
      const marker = mark >= 0 && mark < propNames ? this.scene.bodies[mark >> 8]?.markers[mark & 255] : null;
      const prop = mark >= propNames ? this.scene.props[(mark - propNames) >> 6] : null;
      info.named = !!(marker || prop);
      info.side = marker ? marker.side : prop ? "C" : "N";
      info.name = marker ? marker.name : prop ? `${prop.name} ${((mark - propNames) & 63) + 1}` : `Dot ${i + 1}`;
    }
    if (!changed) return;
    const m = this.stage.markers;
    m.links = this.links.map(([a, b]) =>
      slotOf.has(a) && slotOf.has(b)
        ? [slotOf.get(a), slotOf.get(b), m.usual?.get(a * 65536 + b) ?? this.usual(slotOf.get(a), slotOf.get(b))]
        : null,
    );
    m.recolour();
  }

  usual(i, j) {
    const a = this.stage.markers.at(0, i, new THREE.Vector3()),
      b = this.stage.markers.at(0, j, new THREE.Vector3());
    return a.distanceTo(b);
  }
}
