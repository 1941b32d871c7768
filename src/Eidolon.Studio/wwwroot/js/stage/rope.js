import * as THREE from "three";
import { shaded } from "./shading.js";

const links = 40,
  thick = 0.016,
  // A hand further from the straight line than this has let go, metres.
  grip = 0.05,
  // As far as this behind the hands the rope hangs to the floor, metres.
  tail = 0.35;

// A bollard's rope: it tightens between the bollard and the hands that hold it, and hangs to the floor behind them; let go, it lies there.
export class Rope {
  constructor(group, from, palette) {
    this.from = from;
    this.mesh = new THREE.InstancedMesh(new THREE.CylinderGeometry(1, 1, 1, 8, 1, true), shaded(new THREE.Color(0xb09a70), palette), links);
    this.mesh.frustumCulled = false;
    this.mesh.castShadow = true;
    group.add(this.mesh);
    this.points = Array.from({ length: links + 1 }, () => new THREE.Vector3());
    this.m = new THREE.Matrix4();
    this.q = new THREE.Quaternion();
    this.up = new THREE.Vector3(0, 1, 0);
    this.at = this.mesh.getWorldPosition(new THREE.Vector3()).add(from);
  }

  // Palms of whoever is nearest, the one nearer to the bollard first.
  hands(figures) {
    let best = null;
    for (const f of figures) {
      if (!f.group.visible) continue;
      f.palms ??= ["HandL", "HandR"].map((role) => f.info.joints.findIndex((j) => j.role === role));
      if (f.palms.some((i) => i < 0)) continue;
      const both = f.palms.map((i) => {
        const wrist = f.bones[i].getWorldPosition(new THREE.Vector3()),
          elbow = f.bones[i].parent.getWorldPosition(new THREE.Vector3());
        return wrist.clone().add(wrist.clone().sub(elbow).normalize().multiplyScalar(0.08));
      });
      both.sort((a, b) => a.distanceTo(this.at) - b.distanceTo(this.at));
      if (!best || both[0].distanceTo(this.at) < best[0].distanceTo(this.at)) best = both;
    }
    return best;
  }

  // Where it runs: knots from the bollard onwards.
  way(figures) {
    const hands = this.hands(figures),
      far = hands?.[0].distanceTo(this.at) ?? Infinity;
    if (!hands || far > 3.2 || far < 0.4 || hands[1].distanceTo(hands[0]) > 0.95 || Math.min(hands[0].y, hands[1].y) < 0.55) return null;
    const [front, rear] = hands,
      // The hand that is off the line to the other one is on its way to a new grip.
      share = (front.clone().sub(this.at).setY(0).length() + 1e-3) / (rear.clone().sub(this.at).setY(0).length() + 1e-3),
      straight = this.at.y + (rear.y - this.at.y) * share;
    return front.y > straight + grip ? [this.at, rear] : rear.y > front.y + grip + 0.1 ? [this.at, front] : [this.at, front, rear];
  }

  update(figures) {
    this.mesh.updateWorldMatrix(true, false);
    this.at.copy(this.from);
    this.mesh.parent.localToWorld(this.at);
    const held = this.way(figures),
      p = this.points;
    if (held) {
      const last = held[held.length - 1],
        back = last.clone().sub(this.at).setY(0).normalize(),
        down = last.clone().addScaledVector(back, tail * 0.4).add(aside(back, tail)).setY(thick);
      // Tight to the hands, then a curve that falls and lies still.
      const tight = 24;
      for (let k = 0; k <= tight; k++) {
        const t = (k / tight) * (held.length - 1),
          i = Math.min(held.length - 2, Math.floor(t));
        p[k].lerpVectors(held[i], held[i + 1], t - i);
        if (i === 0) p[k].y -= 0.03 * Math.sin(Math.PI * (t - i));
      }
      for (let k = tight + 1; k <= links; k++) {
        const t = (k - tight) / (links - tight),
          s = Math.min(1, t / 0.6);
        p[k].lerpVectors(last, down, 1 - (1 - s) * (1 - s));
        p[k].y = last.y + (thick - last.y) * s * s * (3 - 2 * s);
        if (t > 0.6) p[k].addScaledVector(back, (t - 0.6) * 1.2).add(aside(back, Math.sin((t - 0.6) * 14) * 0.05));
      }
    } else {
      const way = new THREE.Vector3(0, 0, -1);
      for (let k = 0; k <= links; k++) {
        const t = k / links,
          fall = Math.min(1, t / 0.25);
        p[k].copy(this.at).addScaledVector(way, 0.25 * fall + Math.max(0, t - 0.25) * 1.7);
        p[k].x += Math.sin(t * 11) * 0.06 * fall;
        p[k].y = this.at.y + (thick - this.at.y) * fall * fall * (3 - 2 * fall);
      }
    }
    const inverse = this.mesh.matrixWorld.clone().invert(),
      along = new THREE.Vector3();
    for (let k = 0; k < links; k++) {
      along.subVectors(p[k + 1], p[k]);
      const length = along.length();
      this.q.setFromUnitVectors(this.up, along.divideScalar(Math.max(length, 1e-6)));
      this.m.compose(p[k].clone().lerp(p[k + 1], 0.5), this.q, new THREE.Vector3(thick, length * 1.04, thick)).premultiply(inverse);
      this.mesh.setMatrixAt(k, this.m);
    }
    this.mesh.instanceMatrix.needsUpdate = true;
  }
}

// To the side of a way on the floor.
const aside = (way, by) => new THREE.Vector3(way.z, 0, -way.x).multiplyScalar(by);
