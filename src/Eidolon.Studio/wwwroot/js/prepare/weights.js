import * as THREE from "three";
import { toast } from "../app.js";
import { shaded } from "../stage/shading.js";

const $ = (id) => document.getElementById(id),
  token = document.querySelector('meta[name="antiforgery"]').content,
  // A stroke keeps one vertex every so many pixels of its way.
  step = 6;

// Weights as colour on the figure, a brush over them, and a joint bent to see what comes of it. What a stroke does the server works out.
export class Weights {
  constructor(page) {
    Object.assign(this, { page, stage: page.stage, on: false, parts: [], bent: null, stroke: null });
    this.ring = document.createElement("i");
    this.ring.className = "e-brush";
    this.ring.hidden = true;
    this.stage.labels.append(this.ring);
    const canvas = this.stage.canvas;
    canvas.addEventListener("pointerdown", (e) => this.down(e), { capture: true });
    canvas.addEventListener("pointermove", (e) => this.move(e));
    canvas.addEventListener("pointerleave", () => {
      this.ring.hidden = true;
    });
    addEventListener("pointerup", () => this.up());
    document.addEventListener("input", (e) => this.changed(e));
    document.addEventListener("click", (e) => {
      if (e.target.closest("#unpaint")) this.back();
    });
    this.says();
  }

  // The figure that is shown, with its weights as the server has them.
  async load(gltf) {
    this.gltf = gltf;
    this.parts = [];
    if (this.on) await this.fetch();
  }

  async fetch() {
    const asked = this.gltf,
      r = await fetch(`${this.page.api}/weights`);
    if (!r.ok) {
      $("weight-said").textContent = await r.text();
      return;
    }
    const bytes = await r.arrayBuffer();
    if (asked !== this.gltf) return;
    const length = new DataView(bytes).getInt32(0, true),
      head = JSON.parse(new TextDecoder().decode(new Uint8Array(bytes, 4, length))),
      count = head.parts.reduce((n, p) => n + p.count, 0);
    this.bones = head.bones;
    this.which = new Uint16Array(bytes, 4 + length, count * 4);
    this.share = new Float32Array(bytes, 4 + length + count * 8, count * 4);
    this.parts = [];
    this.gltf.scene.traverse((mesh) => {
      const from = mesh.isMesh && this.gltf.parser.associations.get(mesh),
        part = from && head.parts.find((p) => p.mesh === from.meshes && p.primitive === (from.primitives ?? 0));
      if (part) this.parts.push({ ...part, mesh, own: mesh.material });
    });
    this.show();
  }

  async toggle(on) {
    if (this.on !== on) this.bend(0);
    this.on = on;
    if (on && !this.parts.length && this.gltf) await this.fetch();
    this.show();
  }

  // ---- colour ----
  show() {
    for (const p of this.parts) {
      if (this.on) p.mesh.material = this.material();
      else p.mesh.material = p.own;
    }
    if (!this.on) this.ring.hidden = true;
    this.colour();
    this.says();
    this.stage.dirty = true;
  }

  material() {
    if (!this._material) {
      this._material = shaded(new THREE.Color(1, 1, 1), this.stage.palette);
      this._material.vertexColors = true;
      this._material.side = THREE.DoubleSide;
    }
    return this._material;
  }

  get bone() {
    return this.bones ? this.bones.indexOf(this.page.chosen()) : -1;
  }

  // One tone from unmoved to wholly moved; where half and half meet the step is easiest to see.
  colour() {
    if (!this.on) return;
    const { palette } = this.stage,
      low = palette.body.C.clone().lerp(palette.floor, 0.5),
      high = palette.look,
      bone = this.bone;
    for (const p of this.parts) {
      const g = p.mesh.geometry,
        c = g.attributes.weighed ?? new THREE.BufferAttribute(new Float32Array(p.count * 3), 3);
      for (let v = 0; v < p.count; v++) {
        const w = bone < 0 ? 0 : this.of(p.start + v, bone);
        c.setXYZ(v, low.r + (high.r - low.r) * w, low.g + (high.g - low.g) * w, low.b + (high.b - low.b) * w);
      }
      p.plain ??= g.attributes.color ?? null;
      g.setAttribute("weighed", c);
      g.setAttribute("color", c);
      c.needsUpdate = true;
    }
    this.stage.dirty = true;
  }

  // The figure's own colours again.
  plain() {
    for (const p of this.parts)
      if (p.plain) p.mesh.geometry.setAttribute("color", p.plain);
      else p.mesh.geometry.deleteAttribute("color");
  }

  of(vertex, bone) {
    let sum = 0;
    for (let k = vertex * 4; k < vertex * 4 + 4; k++) if (this.which[k] === bone) sum += this.share[k];
    return sum;
  }

  says() {
    const size = $("brush-size"),
      strength = $("brush-strength");
    if (size) $("brush-size-is").textContent = `${size.value} cm`;
    if (strength) $("brush-strength-is").textContent = `${strength.value} %`;
    if (!this.on || !this.bones) return;
    const bone = this.bone;
    let moved = 0;
    if (bone >= 0) for (let v = 0; v < this.which.length / 4; v++) moved += this.of(v, bone) > 0.01;
    $("weight-said").textContent =
      bone < 0
        ? this.page.chosen()
          ? `${this.page.chosen()} moves no skin: it is no bone of it.`
          : "Choose a joint on the Stage or in the Hierarchy."
        : `${this.page.chosen()} moves ${moved.toLocaleString("en")} of ${(this.which.length / 4).toLocaleString("en")} vertices.`;
  }

  chosen() {
    if (!this.on) return;
    this.bend(0);
    this.colour();
    this.says();
  }

  // ---- the brush ----
  get paints() {
    return this.on && this.bone >= 0 && !!$("brush") && !this.page.placing();
  }

  hit(e) {
    const [first] = this.stage.under(e).intersectObjects(
      this.parts.map((p) => p.mesh),
      false,
    );
    if (!first) return null;
    const part = this.parts.find((p) => p.mesh === first.object),
      v = new THREE.Vector3(),
      corners = [first.face.a, first.face.b, first.face.c];
    const near = (i) => part.mesh.localToWorld(part.mesh.getVertexPosition(i, v)).distanceTo(first.point);
    return { vertex: part.start + corners.reduce((a, b) => (near(b) < near(a) ? b : a)), point: first.point };
  }

  down(e) {
    if (!this.paints || e.button !== 0) return;
    const at = this.hit(e);
    if (!at) return;
    // Over the figure the pointer paints, beside it the view turns.
    e.stopImmediatePropagation();
    this.stage.controls.enabled = false;
    this.painted = false;
    this.stroke = { path: [at.vertex], last: [e.clientX, e.clientY], ring: this.page.near(e)?.name };
  }

  move(e) {
    if (!this.paints) return;
    const at = e.buttons && !this.stroke ? null : this.hit(e);
    this.mark(at, e);
    const s = this.stroke;
    if (!s || !at || Math.hypot(e.clientX - s.last[0], e.clientY - s.last[1]) < step) return;
    s.last = [e.clientX, e.clientY];
    if (s.path.at(-1) !== at.vertex && s.path.length < 400) s.path.push(at.vertex);
  }

  mark(at, e) {
    this.ring.hidden = !at;
    if (!at) return;
    const box = this.stage.canvas.getBoundingClientRect(),
      metres = Number($("brush-size").value) / 100,
      far = this.stage.camera.position.distanceTo(at.point),
      px = (metres / far / (2 * Math.tan((this.stage.camera.fov * Math.PI) / 360))) * box.height * 2;
    for (const [k, v] of Object.entries({ width: px, height: px })) this.ring.style.setProperty(k, `${v}px`);
    this.ring.style.setProperty("transform", `translate(${e.clientX - box.left}px, ${e.clientY - box.top}px) translate(-50%, -50%)`);
  }

  async up() {
    const s = this.stroke;
    if (!s) return;
    this.stroke = null;
    this.stage.controls.enabled = true;
    // A click on the ring of another joint chooses that; the browser's own click follows.
    if (s.path.length === 1 && s.ring && s.ring !== this.page.chosen()) return;
    this.painted = true;
    await this.paint(s.path);
  }

  // Was the click that comes now the end of a stroke?
  took() {
    const was = this.painted;
    this.painted = false;
    return was;
  }

  paint(path) {
    const wish = {
      brush: document.querySelector("#brush input:checked").value,
      bone: this.page.chosen(),
      path,
      radius: Number($("brush-size").value) / 100,
      strength: Number($("brush-strength").value) / 100,
      mirror: $("brush-mirror").checked,
    };
    return this.ask("Paint", { stroke: JSON.stringify(wish) }, 1);
  }

  back() {
    return this.ask("Unpaint", {}, -1);
  }

  async ask(handler, fields, more) {
    document.body.dataset.ready = "false";
    try {
      const r = await fetch(`?handler=${handler}`, {
        method: "POST",
        headers: { "X-Antiforgery": token },
        body: new URLSearchParams(fields),
      });
      if (r.ok) {
        this.patch(await r.arrayBuffer());
        const n = Number($("strokes").textContent) + more;
        $("strokes").textContent = n;
        $("unpaint").disabled = n < 1;
        this.page.kept(more);
      } else toast(await r.text());
    } catch {
      toast("The studio does not answer. Nothing was changed.");
    }
    document.body.dataset.ready = "true";
  }

  // The vertices that changed, in what is shown and in what moves the figure here.
  patch(bytes) {
    const count = new DataView(bytes).getInt32(0, true),
      at = new Int32Array(bytes, 4, count),
      which = new Uint16Array(bytes, 4 + count * 4, count * 4),
      share = new Float32Array(bytes, 4 + count * 12, count * 4);
    at.forEach((v, i) => {
      this.which.set(which.subarray(i * 4, i * 4 + 4), v * 4);
      this.share.set(share.subarray(i * 4, i * 4 + 4), v * 4);
      const part = this.parts.find((p) => v >= p.start && v < p.start + p.count);
      if (!part?.mesh.isSkinnedMesh) return;
      const { skinIndex, skinWeight } = part.mesh.geometry.attributes,
        own = part.mesh.skeleton.bones;
      for (let k = 0; k < 4; k++) {
        const bone = own.findIndex((b) => (b.userData.name ?? b.name) === this.bones[which[i * 4 + k]]);
        skinIndex.setComponent(v - part.start, k, Math.max(0, bone));
        skinWeight.setComponent(v - part.start, k, bone < 0 ? 0 : share[i * 4 + k]);
      }
      skinIndex.needsUpdate = skinWeight.needsUpdate = true;
    });
    this.colour();
    this.says();
  }

  // ---- a joint is bent, to see how the skin goes along ----
  changed(e) {
    if (e.target.closest?.("#bend, #bend-way")) this.bend(Number($("bend").value));
    if (e.target.closest?.("#brush-size, #brush-strength")) this.says();
  }

  bend(degrees) {
    const slider = $("bend");
    if (slider) {
      slider.value = degrees;
      $("bend-is").textContent = `${degrees}°`;
    }
    if (this.bent) this.bent.bone.quaternion.copy(this.bent.rest);
    this.bent = null;
    const name = this.page.chosen(),
      skinned = this.parts.find((p) => p.mesh.isSkinnedMesh)?.mesh,
      bone = degrees && skinned?.skeleton.bones.find((b) => (b.userData.name ?? b.name) === name);
    if (bone) {
      this.bent = { bone, rest: bone.quaternion.clone() };
      const way = document.querySelector("#bend-way input:checked").value,
        axis = new THREE.Vector3(way === "x", way === "y", way === "z"),
        above = bone.parent.getWorldQuaternion(new THREE.Quaternion()).invert();
      bone.quaternion.premultiply(
        new THREE.Quaternion().setFromAxisAngle(axis.applyQuaternion(above), (degrees * Math.PI) / 180),
      );
    }
    this.stage.dirty = true;
  }
}
