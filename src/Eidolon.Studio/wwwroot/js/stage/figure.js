import * as THREE from "three";
import { GLTFLoader } from "three/addons/loaders/GLTFLoader.js";
import { shaded, repaint, seeThrough } from "./shading.js";

const loader = new GLTFLoader(),
  // Corners of triangles of the smallest skin that throws a shadow.
  small = 6000;

// Bones of the skin alone, which take a share of a joint's turn: a bent knee keeps its thickness.
function helpersOf(root) {
  const found = [];
  root.traverse((o) => {
    const { follows, share } = o.userData;
    const of = follows && o.parent?.children.find((c) => c !== o && c.name === THREE.PropertyBinding.sanitizeNodeName(follows));
    if (of) found.push({ bone: o, of, share, rest: o.quaternion.clone() });
  });
  return found;
}

// A figure: a skinned body driven by local turns, and its bones as lines. The browser computes nothing of the motion.
export class Figure {
  static async load(info, data, palette) {
    const gltf = await loader.loadAsync(info.mesh);
    const figure = new Figure(gltf.scene, info, data, palette);
    if (info.face) await figure.wearFace();
    return figure;
  }

  constructor(root, info, data, palette) {
    this.info = info;
    this.data = data;
    this.stride = 3 + 4 * info.joints.length;
    this.group = new THREE.Group();
    this.group.add(root);
    this.bones = info.joints.map((j) => root.getObjectByName(THREE.PropertyBinding.sanitizeNodeName(j.name)) ?? new THREE.Object3D());
    this.skins = [];
    root.traverse((o) => {
      if (o.isSkinnedMesh) this.skins.push(o);
    });
    this.helpers = helpersOf(root);
    this.stretch(info.joints);
    this.above = this.measureAbove();
    for (const s of this.skins) {
      s.frustumCulled = false;
      s.receiveShadow = true;
      this.dress(s, palette);
    }
    const pairs = [];
    info.joints.forEach((j, i) => {
      if (j.parent >= 0 && j.role !== "Root" && info.joints[j.parent].role !== "Root") pairs.push([j.parent, i]);
    });
    this.pairs = pairs;
    this.lines = new THREE.LineSegments(
      new THREE.BufferGeometry(),
      new THREE.LineBasicMaterial({ vertexColors: true, depthTest: false, transparent: true, toneMapped: false }),
    );
    this.lines.geometry.setAttribute("position", new THREE.Float32BufferAttribute(new Float32Array(pairs.length * 6), 3));
    this.lines.geometry.setAttribute("color", new THREE.Float32BufferAttribute(new Float32Array(pairs.length * 6), 3));
    this.lines.frustumCulled = false;
    this.lines.renderOrder = 3;
    this.knots = new THREE.Points(
      new THREE.BufferGeometry(),
      new THREE.PointsMaterial({ color: palette.text, size: 5, sizeAttenuation: false, depthTest: false, transparent: true }),
    );
    // A knot on every joint but the fingers', which lie too near each other.
    this.knotted = info.joints.flatMap((j, i) => (/\d$/.test(j.role ?? "") ? [] : [i]));
    this.knots.geometry.setAttribute("position", new THREE.Float32BufferAttribute(new Float32Array(this.knotted.length * 3), 3));
    this.knots.frustumCulled = false;
    this.knots.renderOrder = 4;
    this.group.add(this.lines, this.knots);
    this.palette = palette;
    this.colourBones();
    this.mode("body");
  }

  // Bones that are shown longer or shorter than they are, and what of the skin goes with them.
  stretch(joints) {
    joints.forEach((j, i) => {
      if (!j.longer) return;
      this.bones[i].position.multiplyScalar(j.longer);
      for (const h of this.helpers) if (h.of === this.bones[i]) h.bone.position.multiplyScalar(j.longer);
    });
  }

  // What was recorded of a face moves the shapes of the same names.
  async wearFace() {
    const answer = await fetch(this.info.face.weights);
    if (!answer.ok) return;
    const weights = new Float32Array(await answer.arrayBuffer()),
      names = this.info.face.names;
    this.face = { weights, count: names.length, shapes: [] };
    for (const s of this.skins) {
      const pairs = names.flatMap((n, k) => (s.morphTargetDictionary?.[n] === undefined ? [] : [[k, s.morphTargetDictionary[n]]]));
      if (pairs.length) this.face.shapes.push({ skin: s, pairs });
    }
  }

  moveFace(frame) {
    const { weights, count, shapes } = this.face;
    for (const { skin, pairs } of shapes) for (const [k, to] of pairs) skin.morphTargetInfluences[to] = weights[frame * count + k] ?? 0;
  }

  // Everybody wears what their file says. A performer's limbs can be told apart by the guide colours of their sides, which never go into a file.
  dress(mesh, palette) {
    const own = mesh.material;
    mesh.material = shaded(own.color ?? new THREE.Color(0xffffff), palette, own, mesh.geometry);
    if (this.info.kind === "character") return;
    const sides = new Map(this.info.joints.map((j) => [THREE.PropertyBinding.sanitizeNodeName(j.name), j.side]));
    const of = (bone) => sides.get(bone.name) ?? sides.get(bone.userData.follows && THREE.PropertyBinding.sanitizeNodeName(bone.userData.follows)) ?? "C";
    mesh.userData.sides = mesh.skeleton.bones.map(of);
    this.guide(mesh, palette);
  }

  guide(mesh, palette) {
    const { skinIndex, skinWeight, position } = mesh.geometry.attributes,
      colours = new Float32Array(position.count * 3),
      c = new THREE.Color(),
      // Mixed as screens show them, like every tone of the Stage.
      own = Object.fromEntries(["L", "R"].map((s) => [s, palette[s].clone().convertLinearToSRGB()]));
    for (let i = 0; i < position.count; i++) {
      let most = 0,
        side = "C";
      for (let k = 0; k < 4; k++) {
        const w = skinWeight.getComponent(i, k);
        if (w > most) [most, side] = [w, mesh.userData.sides[skinIndex.getComponent(i, k)]];
      }
      if (side === "C") continue;
      c.copy(own[side]);
      colours.set([c.r, c.g, c.b], i * 3);
    }
    mesh.geometry.setAttribute("guide", new THREE.BufferAttribute(colours, 3));
    repaint(mesh.material, palette, this.guided === false ? 0 : 0.4);
  }

  // Guide colours on a performer's limbs, or the plain suit.
  guides(on) {
    this.guided = on;
    for (const s of this.skins) if (s.userData.sides) repaint(s.material, this.palette, on ? 0.4 : 0);
  }

  // The theme changed.
  repaint(palette) {
    this.palette = palette;
    for (const s of this.skins) {
      if (s.userData.sides) this.guide(s, palette);
      else repaint(s.material, palette);
    }
    this.colourBones();
  }

  colourBones() {
    const col = this.lines.geometry.attributes.color.array;
    this.pairs.forEach(([, i], k) => {
      const c = this.palette[this.info.joints[i].side];
      col.set([c.r, c.g, c.b, c.r, c.g, c.b], k * 6);
    });
    this.lines.geometry.attributes.color.needsUpdate = true;
  }

  mode(kind) {
    this.kind = kind;
    const see = kind === "both" || kind === "ghost";
    for (const s of this.skins) {
      s.visible = kind !== "bones";
      seeThrough(s.material, kind === "ghost" ? 0.28 : see ? 0.5 : 1);
      // Buttons and eyes throw no shadow that anybody sees.
      s.castShadow = kind !== "ghost" && (s.geometry.index?.count ?? Infinity) > small;
    }
    this.lines.visible = this.knots.visible = kind === "bones" || kind === "both";
  }

  // How far the head, or a hat, reaches above the highest joint while the figure stands at rest.
  measureAbove() {
    this.group.updateMatrixWorld(true);
    const v = new THREE.Vector3(),
      joints = Math.max(...this.bones.map((o) => o.getWorldPosition(v).y));
    let top = joints;
    for (const s of this.skins) {
      s.geometry.computeBoundingBox();
      top = Math.max(top, s.geometry.boundingBox.max.y);
    }
    return top - joints;
  }

  // What must be in the picture: all joints, the top of the head, and the floor below.
  outline() {
    const out = this.bones.filter((_, i) => this.info.joints[i].role !== "Root").map((o) => o.getWorldPosition(new THREE.Vector3()));
    const top = Math.max(...out.map((p) => p.y)),
      hips = this.hips(new THREE.Vector3());
    out.push(hips.clone().setY(top + this.above), hips.clone().setY(Math.min(0, ...out.map((p) => p.y))));
    return out;
  }

  // A pose of its own for the frame that is shown, until another frame is.
  hold(pose, frame = this.shownFrame) {
    this.held = { pose, frame };
  }

  // A motion that arrives in pieces; the pose that is shown stays until the one that is asked for is there.
  plays(samples) {
    this.samples?.close();
    this.samples = samples;
    this.data = samples.data;
  }

  arrived(frame) {
    if (!this.samples || this.samples.has(frame)) return (this.last = frame);
    this.samples.want(frame);
    return this.samples.has(this.last) ? this.last : frame;
  }

  update(frame) {
    this.shownFrame = frame;
    if (this.held && this.held.frame !== frame) this.held = null;
    const f = this.arrived(Math.min(frame, this.info.frames - 1)),
      at = this.held ? 0 : f * this.stride,
      d = this.held?.pose ?? this.data;
    // A pose that is not whole (its samples are not there, or are of a motion of another length) is not shown: the one before it stays.
    if (!Number.isFinite(d[at] + d[at + this.stride - 1])) return;
    for (let j = 0; j < this.bones.length; j++) {
      const k = at + 3 + j * 4;
      this.bones[j].quaternion.set(d[k], d[k + 1], d[k + 2], d[k + 3]);
    }
    this.bones[this.info.pelvis].position.set(d[at], d[at + 1], d[at + 2]);
    for (const h of this.helpers) h.bone.quaternion.slerpQuaternions(h.rest, h.of.quaternion, h.share);
    if (this.face) this.moveFace(f);
    this.group.updateMatrixWorld(true);
    if (this.lines.visible) this.updateBones();
  }

  updateBones() {
    const pos = this.lines.geometry.attributes.position.array,
      dots = this.knots.geometry.attributes.position.array,
      v = new THREE.Vector3();
    const inverse = this.group.matrixWorld.clone().invert();
    const places = this.bones.map((b) => b.getWorldPosition(v).applyMatrix4(inverse).toArray());
    this.pairs.forEach(([a, b], k) => pos.set([...places[a], ...places[b]], k * 6));
    this.knotted.forEach((joint, i) => dots.set(places[joint], i * 3));
    this.lines.geometry.attributes.position.needsUpdate = true;
    this.knots.geometry.attributes.position.needsUpdate = true;
  }

  hips(out) {
    return this.bones[this.info.pelvis].getWorldPosition(out);
  }
}
