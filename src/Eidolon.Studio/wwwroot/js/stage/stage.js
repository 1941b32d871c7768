import * as THREE from "three";
import { OrbitControls } from "three/addons/controls/OrbitControls.js";
import { Floor } from "./floor.js";
import { Markers } from "./markers.js";
import { ContactRings } from "./contacts.js";
import { Figure } from "./figure.js";
import { palette } from "./palette.js";
import { pixel, repaint } from "./shading.js";
import { Grounding } from "./grounding.js";
import { Pacing } from "./pacing.js";
import { Views } from "./views.js";

// Where one can look from.
const sides = [
  ["ahead and left", 0.62, 0.26, 0.86],
  ["the front", 0, 0.12, 1],
  ["the left", 1, 0.12, 0],
  ["above", 0, 1, 0.01],
  ["behind", -0.7, 0.2, -0.7],
];

// Pixels of a picture in a movement to those of one that stands, where pictures take long.
const coarse = 0.7;

// The Stage: the same on every page. It draws what it is given and says what was pointed at.
export class Stage extends EventTarget {
  constructor(element, clock) {
    super();
    this.element = element;
    this.canvas = element.querySelector("canvas.stage");
    this.clock = clock;
    this.palette = palette();
    this.renderer = new THREE.WebGLRenderer({ canvas: this.canvas, antialias: true, alpha: true, preserveDrawingBuffer: true });
    this.renderer.shadowMap.enabled = true;
    this.renderer.shadowMap.type = THREE.PCFShadowMap;
    this.scene = new THREE.Scene();
    this.camera = new THREE.PerspectiveCamera(36, 1, 0.05, 80);
    this.controls = new OrbitControls(this.camera, this.canvas);
    this.controls.enableDamping = false;
    this.controls.maxPolarAngle = Math.PI * 0.52;
    this.controls.minDistance = 0.6;
    this.controls.maxDistance = 22;
    this.controls.addEventListener("change", () => this.keepView());
    this.floor = new Floor(this.scene);
    this.floor.paint(this.palette);
    this.figures = [];
    this.props = [];
    this.markers = null;
    this.content = new THREE.Group();
    this.scene.add(this.content);
    this.contacts = new ContactRings(this);
    this.grounding = new Grounding(this.scene);
    this.labels = element.querySelector(".labels");
    this.follow = sessionStorage.getItem("stage:follow") !== "0";
    this.guided = localStorage.getItem("stage:guides") !== "0";
    this.ropes = [];
    this.pacing = new Pacing(this);
    this.views = new Views(this);
    this.trailOf = -1;
    this.canvas.addEventListener("pointermove", (e) => this.onMove(e));
    this.canvas.addEventListener("pointerdown", (e) => {
      this._down = [e.offsetX, e.offsetY];
    });
    this.canvas.addEventListener("click", (e) => this.onClick(e));
    this.boxing();
    new ResizeObserver(() => this.resize()).observe(element);
    document.addEventListener("e-theme", () => this.repaint());
    this._kept = sessionStorage.getItem(this.viewKey);
    this.resize();
    this.restoreView();
    this.dirty = true;
  }

  // Something changed that is not in the picture yet: it is drawn at the next frame.
  get dirty() {
    return this.pacing.dirty;
  }

  set dirty(changed) {
    this.pacing.change(changed);
  }

  // Nothing is drawn meanwhile.
  get hold() {
    return this.pacing.hold;
  }

  set hold(on) {
    this.pacing.hold = on;
  }

  setMarkers(info, links, samples) {
    const old = this.markers;
    if (old) {
      this.content.remove(this.markerGroup);
      old.dispose();
    }
    this.markerGroup = new THREE.Group();
    this.content.add(this.markerGroup);
    this.markers = new Markers(this.markerGroup, info, links, samples, this.palette);
    if (old) this.markers.shown = old.shown;
    this.dirty = true;
  }

  async addFigure(info, data) {
    const figure = await Figure.load(info, data, this.palette);
    this.content.add(figure.group);
    this.figures.push(figure);
    figure.guides(this.guided);
    this.addTag(figure);
    this.dirty = true;
    return figure;
  }

  addProp(prop) {
    this.content.add(prop.group);
    this.props.push(prop);
    this.dirty = true;
  }

  addSet(group) {
    this.content.add(group);
    this.ropes.push(...(group.userData.ropes ?? []));
    this.dirty = true;
  }

  addTag(figure) {
    const tag = document.createElement("div");
    tag.className = "e-tag";
    tag.textContent =
      figure.info.kind === "performer"
        ? `${figure.info.name}, performer`
        : figure.info.by
          ? `${figure.info.name}, by ${figure.info.by}`
          : figure.info.name;
    if (figure.info.stretched) tag.textContent += `, stretched by up to ${figure.info.stretched} %`;
    this.labels?.append(tag);
    figure.tag = tag;
  }

  repaint() {
    this.palette = palette();
    this.floor.paint(this.palette);
    if (this.markers) {
      this.markers.palette = this.palette;
      this.markers.recolour();
    }
    this.content.traverse((o) => o.material?.uniforms?.tone && repaint(o.material, this.palette));
    for (const f of this.figures) f.repaint(this.palette);
    this.dirty = true;
  }

  resize() {
    const { clientWidth: w, clientHeight: h } = this.element;
    if (!w || !h) return;
    this.renderer.setPixelRatio(Math.min(2, devicePixelRatio) * (this.pacing.moving ? coarse : 1));
    this.renderer.setSize(w, h, false);
    this.camera.aspect = this.width / this.height;
    this.fitPicture();
    this.camera.updateProjectionMatrix();
    pixel.value = (2 * Math.tan((this.camera.fov * Math.PI) / 360)) / this.height;
    this.dirty = true;
    this.pacing.redraw();
  }

  // Looks through a real camera (pixels, world to camera; x right, y down, z forward) with nothing behind the figures, or lets go of it.
  lookThrough(camera) {
    this.through = camera;
    this.controls.enabled = !camera;
    this.floor.group.visible = true;
    this.floor.ground(!camera);
    this.grounding.mesh.visible = !camera;
    this.camera.fov = 36;
    if (camera) {
      const r = camera.rotation,
        t = camera.translation;
      const turn = new THREE.Matrix4().set(r[0], r[3], r[6], 0, r[1], r[4], r[7], 0, r[2], r[5], r[8], 0, 0, 0, 0, 1);
      this.camera.position.set(-t[0], -t[1], -t[2]).applyMatrix4(turn);
      this.camera.quaternion.setFromRotationMatrix(
        new THREE.Matrix4().set(r[0], -r[3], -r[6], 0, r[1], -r[4], -r[7], 0, r[2], -r[5], -r[8], 0, 0, 0, 0, 1),
      );
    }
    this.resize();
  }

  // The picture lies in the middle of the Stage, as large as it can.
  fitPicture() {
    if (!this.through) return;
    const { clientWidth: w, clientHeight: h } = this.element,
      scale = Math.min(w / this.through.width, h / this.through.height);
    this.camera.fov = (2 * Math.atan(h / 2 / (this.through.focal * scale)) * 180) / Math.PI;
  }

  // Close to one joint, a hand or the head, from the side that shows it; follows it. Null lets go.
  closeTo(role) {
    const figure = this.figures.find((f) => f.group.visible && f.info.joints.some((j) => j.role === role)),
      joint = figure?.info.joints.findIndex((j) => j.role === role) ?? -1;
    this.near = role && joint >= 0 ? figure.bones[joint] : null;
    this.controls.minDistance = this.near ? 0.12 : 0.6;
    if (!this.near) {
      this.frameAll();
      return;
    }
    figure.update(this.frame);
    const at = this.centre(),
      turn = this.near.getWorldQuaternion(new THREE.Quaternion()),
      hand = role.startsWith("Hand"),
      // A hand from its back and a little from the thumb's side, a face from the front.
      from = new THREE.Vector3(...(hand ? [role.endsWith("L") ? 0.25 : -0.25, 0.85, 0.45] : [0.25, 0.1, 1])).normalize();
    this.controls.target.copy(at);
    this.camera.position.copy(at).add(from.applyQuaternion(turn).multiplyScalar(hand ? 0.62 : 0.75));
    this._lastCentre = at.clone();
    this.controls.update();
    this.dirty = true;
  }

  centre(out = new THREE.Vector3()) {
    if (this.near) {
      // A little beyond the joint: the middle of the hand, the middle of the face.
      const hand = this.near.name.startsWith("Hand");
      return this.near.localToWorld(out.set(hand ? (this.near.name.endsWith("L") ? 0.08 : -0.08) : 0, hand ? 0 : 0.08, 0));
    }
    if (this.figures.length) {
      const v = new THREE.Vector3();
      out.set(0, 0, 0);
      for (const f of this.figures) out.add(f.hips(v));
      return out.divideScalar(this.figures.length);
    }
    if (!this.markers) return out.set(0, 0.9, 0);
    let n = 0;
    const v = new THREE.Vector3();
    out.set(0, 0, 0);
    for (let i = 0; i < this.markers.count; i++) {
      this.markers.at(this.frame, i, v);
      if (!Number.isNaN(v.x)) {
        out.add(v);
        n++;
      }
    }
    return n ? out.divideScalar(n) : out.set(0, 0.9, 0);
  }

  // Size of the picture that can be turned and pointed at: all of the Stage, or its part at the upper left.
  get width() {
    return this.element.clientWidth * this.views.share.x;
  }

  get height() {
    return this.element.clientHeight * this.views.share.y;
  }

  get frame() {
    return this.clock ? this.clock.frame : 0;
  }

  // Frames the selection, or everybody.
  frameAll(distance = 4.6) {
    this.near = null;
    this.controls.minDistance = 0.6;
    for (const f of this.figures) f.update(this.frame);
    const c =
      this.markers && this.markers.selected >= 0 && this.markers.seen(this.frame, this.markers.selected)
        ? this.markers.at(this.frame, this.markers.selected, new THREE.Vector3())
        : this.centre();
    const d = this.markers?.selected >= 0 ? 3.0 : distance;
    this.controls.target.copy(c).setY(Math.max(0.5, Math.min(c.y, 1.05)));
    this.camera.position.copy(this.controls.target).add(new THREE.Vector3(0.62, 0.26, 0.86).normalize().multiplyScalar(d));
    if (!(this.markers?.selected >= 0)) this.stepBack();
    this._lastCentre = this.centre().clone();
    this.controls.update();
    this.dirty = true;
  }

  // Steps back, looking the same way, until every figure is whole in the picture, from head to floor.
  stepBack() {
    const points = this.figures.filter((f) => f.group.visible).flatMap((f) => f.outline()),
      away = this.camera.position.clone().sub(this.controls.target),
      p = new THREE.Vector3(),
      // Above lies a row of choices, below a figure's name and a row of buttons.
      [high, low] = [1 - 104 / this.height, -1 + 150 / this.height];
    const whole = () => {
      this.camera.lookAt(this.controls.target);
      this.camera.updateMatrixWorld();
      return points.every((v) => {
        p.copy(v).project(this.camera);
        return p.z < 1 && Math.abs(p.x) < 0.88 && p.y < high && p.y > low;
      });
    };
    for (let k = 0; k < 60 && !whole(); k++) {
      away.multiplyScalar(1.04);
      if (away.length() > this.controls.maxDistance) break;
      this.camera.position.copy(this.controls.target).add(away);
    }
    this.controls.update();
    this.dirty = true;
  }

  // Moves along when what it is about has left the middle of the picture; the direction of the view stays.
  bringIntoView() {
    for (const f of this.figures) f.update(this.frame);
    const c = this.centre(),
      p = c.clone().project(this.camera);
    if (p.z < 1 && Math.abs(p.x) < 0.55 && Math.abs(p.y) < 0.6) return;
    const d = c.sub(this.controls.target).setY(0);
    this.camera.position.add(d);
    this.controls.target.add(d);
    this.controls.update();
    this.dirty = true;
  }

  // From one of five sides; says which.
  view(index) {
    const [words, ...way] = sides[index % sides.length];
    const c = this.centre();
    // Following goes on from here: a centre remembered from before would carry the camera off at the next picture.
    this._lastCentre = c.clone();
    this.controls.target.copy(c);
    this.camera.position.copy(c).add(new THREE.Vector3(...way).normalize().multiplyScalar(4.6));
    this.controls.update();
    this.dirty = true;
    return words;
  }

  // Guide colours of left and right on performers; characters wear their own clothes.
  setGuides(on) {
    this.guided = on;
    localStorage.setItem("stage:guides", on ? "1" : "0");
    for (const f of this.figures) f.guides(on);
    this.dirty = true;
  }

  setFollow(on) {
    this.follow = on;
    this._lastCentre = null;
    sessionStorage.setItem("stage:follow", on ? "1" : "0");
  }

  keepView() {
    this.dirty = true;
    if (this.through || this.near) return;
    sessionStorage.setItem(
      this.viewKey,
      JSON.stringify([...this.camera.position.toArray(), ...this.controls.target.toArray()].map((v) => Math.round(v * 1e4) / 1e4)),
    );
  }

  // Every take keeps the view one had of it last.
  get viewKey() {
    return `stage:view:${document.getElementById("main")?.dataset.key ?? location.pathname}`;
  }

  restoreView() {
    this.camera.position.set(3.2, 2.0, 4.4);
    this.controls.target.set(0, 0.9, 0);
    this.controls.update();
  }

  // The view one had before, if there was one and what it is about is still in it.
  sameView() {
    const kept = JSON.parse(this._kept ?? "null");
    if (!kept || kept.length !== 6 || kept.some((v) => !Number.isFinite(v))) return false;
    this.camera.position.fromArray(kept);
    this.controls.target.fromArray(kept, 3);
    this.controls.update();
    this._lastCentre = null;
    this.bringIntoView();
    return true;
  }

  // A ray to what lies under a pointer.
  under(e) {
    const box = this.canvas.getBoundingClientRect();
    this._ray ??= new THREE.Raycaster();
    this._ray.setFromCamera(
      new THREE.Vector2(((e.clientX - box.left) / box.width) * 2 - 1, 1 - ((e.clientY - box.top) / box.height) * 2),
      this.camera,
    );
    return this._ray;
  }

  onMove(e) {
    if (!this.markers || e.buttons) return;
    const i = this.markers.pick(this.frame, this.camera, e.offsetX, e.offsetY, this.width, this.height);
    if (i !== this.markers.hover) {
      this.markers.hover = i;
      this.markers.recolour();
      this.dirty = true;
      this.canvas.style.setProperty("cursor", i >= 0 ? "pointer" : "default");
      this.dispatchEvent(new CustomEvent("hover", { detail: { marker: i, x: e.offsetX, y: e.offsetY } }));
    }
  }

  // Shift and drag draws a box; what lies in it is selected.
  boxing() {
    let from = null,
      box = null;
    this.canvas.addEventListener(
      "pointerdown",
      (e) => {
        if (!e.shiftKey || e.button !== 0 || !this.markers) return;
        from = [e.offsetX, e.offsetY];
        this.controls.enabled = false;
      },
      { capture: true },
    );
    this.canvas.addEventListener("pointermove", (e) => {
      if (!from) return;
      if (!box && Math.hypot(e.offsetX - from[0], e.offsetY - from[1]) > 4) {
        box = document.createElement("div");
        box.className = "e-box";
        this.labels.append(box);
      }
      if (!box) return;
      const at = {
        left: Math.min(from[0], e.offsetX),
        top: Math.min(from[1], e.offsetY),
        width: Math.abs(e.offsetX - from[0]),
        height: Math.abs(e.offsetY - from[1]),
      };
      for (const [k, v] of Object.entries(at)) box.style.setProperty(k, `${v}px`);
      this._box = { left: at.left, top: at.top, right: at.left + at.width, bottom: at.top + at.height };
    });
    addEventListener("pointerup", () => {
      if (!from) return;
      from = null;
      this.controls.enabled = !this.through;
      if (!box) return;
      box.remove();
      box = null;
      const found = this.markers.within(this.frame, this.camera, this._box, this.width, this.height);
      this.select(found[0] ?? -1, found.slice(1));
      this.dispatchEvent(new CustomEvent("boxed", { detail: { markers: found } }));
    });
  }

  onClick(e) {
    if (!this.markers || !this._down || Math.hypot(e.offsetX - this._down[0], e.offsetY - this._down[1]) > 4) return;
    const i = this.markers.pick(this.frame, this.camera, e.offsetX, e.offsetY, this.width, this.height);
    this.dispatchEvent(new CustomEvent("pick", { detail: { marker: i, more: e.shiftKey } }));
  }

  // One marker, and others beside it.
  select(marker, also = []) {
    if (!this.markers) return;
    this.markers.selected = marker;
    this.markers.also = also.filter((m) => m !== marker);
    this.markers.recolour();
    this.trailOf = this.trailOf >= 0 ? marker : -1;
    this.dirty = true;
    this.dispatchEvent(new CustomEvent("select", { detail: { marker } }));
  }

  setContacts(list) {
    this.contacts.set(list);
  }

  toggleTrail() {
    this.trailOf = this.trailOf >= 0 ? -1 : (this.markers?.selected ?? -1);
    this.dirty = true;
  }

  draw() {
    const f = this.frame;
    for (const figure of this.figures) figure.update(f);
    for (const prop of this.props) prop.update(f);
    this.contacts.update(f);
    for (const rope of this.ropes) rope.update(this.figures);
    this.grounding.update(this.figures, this.props);
    if (this.markers) {
      this.markers.update(f);
      this.markers.setTrail(this.trailOf, f, 60, this.clock?.count ?? 1);
    }
    if (this.follow) {
      const c = this.centre();
      // The view goes nowhere that is no place: it would never come back from there.
      if (!Number.isFinite(c.x + c.y + c.z)) c.copy(this._lastCentre ?? this.controls.target);
      if (this._lastCentre) {
        const d = c.clone().sub(this._lastCentre);
        if (!this.near) d.setY(0);
        this.camera.position.add(d);
        this.controls.target.add(d);
      }
      this._lastCentre = c.clone();
      this.controls.update();
    }
    this.views.render();
    this.placeTags();
    this.dispatchEvent(new Event("drawn"));
  }

  // Names stand under the lowest part of their figure, never over its feet.
  placeTags() {
    const v = new THREE.Vector3();
    for (const figure of this.figures) {
      figure.hips(v).project(this.camera);
      const x = ((v.x + 1) / 2) * this.width,
        behind = v.z > 1;
      let low = -Infinity;
      for (let i = 0; i < figure.bones.length; i++) {
        // A root lies wherever its file has it.
        if (figure.info.joints[i].role === "Root") continue;
        figure.bones[i].getWorldPosition(v);
        v.y -= 0.05;
        low = Math.max(low, ((1 - v.project(this.camera).y) / 2) * this.height);
      }
      figure.tag.style.setProperty("transform", `translate(${x}px, ${Math.min(low + 6, this.height - 24)}px) translate(-50%, 0)`);
      // Looked at closely, with the feet far below the picture, a figure needs no name there.
      const below = low > this.height + 40;
      figure.tag.classList.toggle("e-hidden", !figure.group.visible || behind || below || x < 0 || x > this.width);
    }
  }
}
