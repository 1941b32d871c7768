import * as THREE from "three";

const wood = { color: 0x6b5644, roughness: 0.95 },
  stone = { color: 0x4d4a58, roughness: 1 },
  iron = { color: 0x3a3d44, roughness: 0.7 },
  hemp = { color: 0xa08a62, roughness: 1 };

const mesh = (geometry, look) => {
  const m = new THREE.Mesh(geometry, new THREE.MeshStandardMaterial(look));
  m.castShadow = true;
  m.receiveShadow = true;
  return m;
};

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
    const lamp = { color: 0xf3c776, emissive: 0xf3c776, emissiveIntensity: 0.7, roughness: 0.6 };
    group.add(at(mesh(new THREE.BoxGeometry(0.18, 0.26, 0.18), lamp), 0, 2.5, 0));
  },
};

// All set pieces of a take as one group.
export function setPieces(pieces) {
  const all = new THREE.Group();
  for (const piece of pieces) {
    const make = makers[piece.kind];
    if (!make) continue;
    const group = new THREE.Group();
    make(group);
    group.position.set(piece.x, 0, piece.z);
    group.rotation.y = (piece.heading * Math.PI) / 180;
    all.add(group);
  }
  return all;
}
