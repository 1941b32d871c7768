import * as THREE from "three";
import { GLTFLoader } from "three/addons/loaders/GLTFLoader.js";
import { shadeAll } from "./shading.js";

const loader = new GLTFLoader();

// A prop: its model where it has one, otherwise the lines between its markers.
export async function propGroup(prop, palette) {
  const group = new THREE.Group();
  if (prop.model) {
    const gltf = await loader.loadAsync(prop.model);
    shadeAll(gltf.scene, palette);
    group.add(gltf.scene);
    return group;
  }
  const points = prop.markers.map((m) => new THREE.Vector3(...m)),
    pairs = [];
  points.forEach((a, i) => points.slice(i + 1).forEach((b) => pairs.push(a, b)));
  group.add(
    new THREE.LineSegments(
      new THREE.BufferGeometry().setFromPoints(pairs),
      new THREE.LineBasicMaterial({ color: palette.text, transparent: true, opacity: 0.5 }),
    ),
  );
  return group;
}

// A prop of a take or scene, frame by frame: place and turn, seven numbers each.
export class StageProp {
  static async load(info, data, palette) {
    return new StageProp(info, data, await propGroup(info, palette));
  }

  constructor(info, data, group) {
    Object.assign(this, { info, data, group });
  }

  update(frame) {
    const k = Math.min(frame, this.info.frames - 1) * 7,
      d = this.data,
      seen = !Number.isNaN(d[k]);
    this.group.visible = seen && !this.hidden;
    if (!seen) return;
    this.group.position.set(d[k] + (this.aside ?? 0), d[k + 1], d[k + 2]);
    this.group.quaternion.set(d[k + 3], d[k + 4], d[k + 5], d[k + 6]);
    this.group.updateMatrixWorld(true);
  }
}
