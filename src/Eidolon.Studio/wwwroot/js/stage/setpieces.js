import * as THREE from "three";
import { shaded } from "./shading.js";
import { Rope } from "./rope.js";

const wood = { color: 0x7a624c },
  stone = { color: 0x5c5868 },
  iron = { color: 0x45434f },
  hemp = { color: 0xb09a70 };

let palette;

const mesh = (geometry, look) => {
  const m = new THREE.Mesh(geometry, shaded(new THREE.Color(look.color), palette));
  m.castShadow = true;
  m.receiveShadow = true;
  return m;
};

// Light that fades outwards.
function halo() {
  const canvas = document.createElement("canvas");
  canvas.width = canvas.height = 128;
  const g = canvas.getContext("2d"),
    fade = g.createRadialGradient(64, 64, 0, 64, 64, 64);
  fade.addColorStop(0, "#ffffffcc");
  fade.addColorStop(0.3, "#ffffff40");
  fade.addColorStop(1, "#ffffff00");
  g.fillStyle = fade;
  g.fillRect(0, 0, 128, 128);
  return new THREE.CanvasTexture(canvas);
}

const at = (object, x, y, z) => {
  object.position.set(x, y, z);
  return object;
};

// What stands on a stage and is no prop; drawn by code, in metres, the piece's own +Z ahead.
const makers = {
  // Steps of 17 cm, 34 cm deep, the first tread's edge at the origin.
  steps(group) {
    for (let k = 0; k < 5; k++) {
      const height = 0.17 * (Math.min(k, 2) + 1);
      group.add(at(mesh(new THREE.BoxGeometry(1.3, height, 0.34), stone), 0, height / 2 - 0.002, 0.34 * k + 0.17));
    }
  },
  // The end of the quay and the plank beyond, with the gap between them around the origin.
  gangplank(group) {
    for (const z of [-0.95, 0.72]) group.add(at(mesh(new THREE.BoxGeometry(1.1, 0.012, 0.6), wood), 0, 0.004, z));
    for (const z of [-0.64, 0.42]) group.add(at(mesh(new THREE.BoxGeometry(1.1, 0.02, 0.03), iron), 0, 0.008, z));
  },
  bollard(group) {
    group.add(at(mesh(new THREE.CylinderGeometry(0.16, 0.2, 0.5, 20), iron), 0, 0.25, 0));
    group.add(at(mesh(new THREE.CylinderGeometry(0.23, 0.2, 0.1, 20), iron), 0, 0.55, 0));
    for (let k = 0; k < 3; k++) {
      const turn = mesh(new THREE.TorusGeometry(0.2, 0.022, 8, 32), hemp);
      turn.rotation.x = Math.PI / 2;
      group.add(at(turn, 0, 0.28 + k * 0.045, 0));
    }
    group.userData.rope = new Rope(group, new THREE.Vector3(0, 0.36, -0.2), palette);
  },
  // A net stretched over the deck at the height of a bent back.
  net(group) {
    const points = [];
    for (let k = 0; k <= 16; k++) {
      const s = -2.4 + 0.3 * k,
        sag = (x, z) => 1.02 - 0.06 * Math.cos((x * Math.PI) / 4.8) * Math.cos((z * Math.PI) / 4.8);
      for (let j = 0; j < 16; j++) {
        const a = -2.4 + 0.3 * j,
          b = a + 0.3;
        points.push(new THREE.Vector3(s, sag(s, a), a), new THREE.Vector3(s, sag(s, b), b));
        points.push(new THREE.Vector3(a, sag(a, s), s), new THREE.Vector3(b, sag(b, s), s));
      }
    }
    const line = new THREE.LineBasicMaterial({ color: hemp.color, transparent: true, opacity: 0.35 });
    group.add(new THREE.LineSegments(new THREE.BufferGeometry().setFromPoints(points), line));
    for (const [x, z] of [
      [-2.4, -2.4],
      [2.4, -2.4],
      [-2.4, 2.4],
      [2.4, 2.4],
    ])
      group.add(at(mesh(new THREE.CylinderGeometry(0.03, 0.03, 1.05, 8), wood), x, 0.52, z));
  },
  "mooring-line"(group) {
    const rope = mesh(new THREE.CylinderGeometry(0.025, 0.025, 2.4, 10), hemp);
    rope.rotation.z = Math.PI / 2;
    group.add(at(rope, 0, 0.32, 0));
    for (const x of [-1.2, 1.2]) group.add(at(mesh(new THREE.CylinderGeometry(0.06, 0.08, 0.36, 12), iron), x, 0.18, 0));
  },
  "lamp-post"(group) {
    group.add(at(mesh(new THREE.CylinderGeometry(0.04, 0.06, 2.4, 12), iron), 0, 1.2, 0));
    // The glass shines by itself, and the air around it.
    group.add(at(new THREE.Mesh(new THREE.CylinderGeometry(0.12, 0.075, 0.26, 6), new THREE.MeshBasicMaterial({ color: 0xffe9b8, fog: false })), 0, 2.53, 0));
    for (const y of [2.39, 2.68]) group.add(at(mesh(new THREE.CylinderGeometry(0.13, 0.1, 0.04, 6), iron), 0, y, 0));
    group.add(at(mesh(new THREE.ConeGeometry(0.15, 0.12, 6), iron), 0, 2.75, 0));
    const glow = new THREE.Sprite(new THREE.SpriteMaterial({ map: halo(), color: 0xffd58a, transparent: true, depthWrite: false, opacity: 0.55 }));
    glow.scale.setScalar(2.2);
    group.add(at(glow, 0, 2.53, 0));
  },
};

// All set pieces of a take as one group.
export function setPieces(pieces, colours) {
  palette = colours;
  const all = new THREE.Group();
  for (const piece of pieces) {
    const make = makers[piece.kind];
    if (!make) continue;
    const group = new THREE.Group();
    make(group);
    group.position.set(piece.x, 0, piece.z);
    group.rotation.y = (piece.heading * Math.PI) / 180;
    all.add(group);
    if (group.userData.rope) (all.userData.ropes ??= []).push(group.userData.rope);
  }
  return all;
}
