import * as THREE from "three";

// Dark where a foot, a hand, a knee or a prop touches the floor, fading as it is lifted: it puts things on the ground where a thrown shadow cannot.
const most = 64,
  // How long and wide each part's shade is, metres, and how high above the floor its joint stands when it touches.
  parts = { Foot: [0.16, 0.075, 0.09], Toes: [0.09, 0.07, 0.025], Hand: [0.11, 0.075, 0.03], Shin: [0.09, 0.08, 0.07], Pelvis: [0.2, 0.18, 0.13] },
  // Lifted this far it is gone, metres.
  reach = 0.16;

export class Grounding {
  constructor(scene) {
    const plane = new THREE.PlaneGeometry(2, 2).rotateX(-Math.PI / 2);
    this.strength = new THREE.InstancedBufferAttribute(new Float32Array(most), 1);
    plane.setAttribute("strength", this.strength);
    this.mesh = new THREE.InstancedMesh(
      plane,
      new THREE.ShaderMaterial({
        transparent: true,
        depthWrite: false,
        polygonOffset: true,
        polygonOffsetFactor: -2,
        vertexShader:
          "attribute float strength; varying vec2 at; varying float s; void main() { at = position.xz; s = strength; " +
          "gl_Position = projectionMatrix * modelViewMatrix * instanceMatrix * vec4(position, 1.0); }",
        fragmentShader:
          "varying vec2 at; varying float s; void main() { gl_FragColor = vec4(0.07, 0.047, 0.11, s * (1.0 - smoothstep(0.35, 1.0, length(at)))); }",
      }),
      most,
    );
    this.mesh.frustumCulled = false;
    this.mesh.renderOrder = 1;
    scene.add(this.mesh);
    this.v = new THREE.Vector3();
    this.w = new THREE.Vector3();
    this.m = new THREE.Matrix4();
  }

  update(figures, props) {
    let n = 0;
    const put = (x, z, long, wide, turn, height) => {
      const s = 0.6 * Math.max(0, 1 - Math.max(0, height) / reach);
      if (s < 0.02 || n >= most || height < -0.25) return;
      this.m.makeRotationY(turn).scale(this.v.set(long, 1, wide)).setPosition(x, 0.003, z);
      this.mesh.setMatrixAt(n, this.m);
      this.strength.array[n++] = s;
    };
    for (const f of figures) {
      if (!f.group.visible) continue;
      f.grounded ??= f.info.joints.flatMap((j, i) => {
        const stem = (j.role ?? "").replace(/[LR]$/, "");
        return parts[stem] ? [[i, parts[stem]]] : [];
      });
      for (const [i, [long, wide, high]] of f.grounded) {
        const at = f.bones[i].getWorldPosition(this.w),
          { x, y, z } = at,
          next = f.bones[i].children.find((c) => c.isBone && !c.userData.follows),
          ahead = next ? next.getWorldPosition(this.w) : at,
          dx = ahead.x - x,
          dz = ahead.z - z;
        put(x + dx * 0.4, z + dz * 0.4, long, wide, Math.atan2(-dz, dx), y - high);
      }
    }
    for (const p of props) {
      if (!p.group.visible) continue;
      p.box ??= boxOf(p.group);
      const low = lowest(p, this.w);
      put(p.group.position.x, p.group.position.z, p.box.x * 0.62, p.box.z * 0.62, p.group.rotation.y, low);
    }
    this.mesh.count = n;
    this.mesh.instanceMatrix.needsUpdate = this.strength.needsUpdate = true;
  }
}

// Size of a prop in its own axes.
function boxOf(group) {
  group.updateMatrixWorld(true);
  const box = new THREE.Box3(),
    inverse = group.matrixWorld.clone().invert();
  group.traverse((o) => {
    if (!o.geometry) return;
    o.geometry.computeBoundingBox();
    box.union(o.geometry.boundingBox.clone().applyMatrix4(new THREE.Matrix4().multiplyMatrices(inverse, o.matrixWorld)));
  });
  const size = box.getSize(new THREE.Vector3());
  size.box = box;
  return size;
}

// Height of a prop's lowest corner.
function lowest(prop, v) {
  const { min, max } = prop.box.box;
  let low = Infinity;
  for (let k = 0; k < 8; k++) {
    v.set(k & 1 ? max.x : min.x, k & 2 ? max.y : min.y, k & 4 ? max.z : min.z).applyMatrix4(prop.group.matrixWorld);
    low = Math.min(low, v.y);
  }
  return low;
}
