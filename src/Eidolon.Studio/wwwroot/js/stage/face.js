import * as THREE from "three";

// A plain face on a figure's head: eyes that shut, brows, a mouth that opens and smiles. It shows the weights, it works nothing out.
const steps = 12;

export class Face {
  constructor(info, weights, palette) {
    this.info = info;
    this.weights = weights;
    this.at = new Map(info.names.map((n, i) => [n, i]));
    this.group = new THREE.Group();
    this.group.scale.setScalar(info.size);
    const ink = new THREE.MeshBasicMaterial({ color: 0x1b1220, toneMapped: false, side: THREE.DoubleSide }),
      white = new THREE.MeshBasicMaterial({ color: 0xf3ede2, toneMapped: false });
    this.eyes = [1, -1].map((sign) => {
      const eye = new THREE.Group(),
        ball = new THREE.Mesh(new THREE.SphereGeometry(0.0062, 14, 10), white),
        iris = new THREE.Mesh(new THREE.SphereGeometry(0.0031, 12, 8), ink);
      ball.scale.z = 0.45;
      iris.position.z = 0.001;
      eye.add(ball, iris);
      eye.position.set(sign * 0.017, 0.0575, 0.0508);
      eye.rotation.y = sign * 0.32;
      this.group.add(eye);
      return eye;
    });
    this.brows = [1, -1].map((sign) => {
      const brow = new THREE.Mesh(new THREE.CapsuleGeometry(0.0012, 0.0125, 3, 6), ink);
      brow.rotation.set(0, sign * 0.32, Math.PI / 2);
      this.group.add(brow);
      return brow;
    });
    const mouth = new THREE.BufferGeometry(),
      index = [];
    for (let k = 0; k < steps; k++) index.push(2 * k, 2 * k + 1, 2 * k + 2, 2 * k + 1, 2 * k + 3, 2 * k + 2);
    mouth.setAttribute("position", new THREE.Float32BufferAttribute(new Float32Array((steps + 1) * 6), 3));
    mouth.setIndex(index);
    this.mouth = new THREE.Mesh(mouth, ink);
    this.mouth.frustumCulled = false;
    this.group.add(this.mouth);
    this.palette = palette;
  }

  weight(frame, ...names) {
    let most = 0;
    for (const n of names) {
      const k = this.at.get(n);
      if (k !== undefined) most = Math.max(most, this.weights[frame * this.info.names.length + k]);
    }
    return most;
  }

  update(frame) {
    const w = (...names) => this.weight(frame, ...names);
    ["L", "R"].forEach((s, i) => {
      const sign = i ? -1 : 1,
        narrow = 0.35 * w(`AU07${s}`) + 0.25 * w(`AU06${s}`),
        open = Math.max(0.06, (1 - w(`AU43${s}`)) * (1 - narrow) + 0.3 * w(`AU05${s}`));
      this.eyes[i].scale.y = open;
      const up = 0.006 * w(`AU01${s}`, `AU02${s}`) - 0.004 * w(`AU04${s}`);
      this.brows[i].position.set(sign * (0.0175 - 0.002 * w(`AU04${s}`)), 0.0685 + up, 0.0506);
      this.brows[i].rotation.z = Math.PI / 2 + sign * (0.12 - 0.3 * w(`AU04${s}`) + 0.2 * w(`AU01${s}`));
    });
    const jaw = Math.max(w("AU26"), w("AU27")),
      gap = 0.0012 + 0.003 * w("AU25") + 0.015 * jaw,
      wide = 0.0125 + 0.0035 * w("AU12L", "AU12R", "AU20L", "AU20R") - 0.005 * w("AU18", "AU22") - 0.002 * jaw,
      p = this.mouth.geometry.attributes.position.array;
    for (let k = 0; k <= steps; k++) {
      const x = (2 * k) / steps - 1,
        side = x > 0 ? "L" : "R",
        corner = x * x * (0.0055 * w(`AU12${side}`) - 0.005 * w(`AU15${side}`)),
        round = Math.sqrt(Math.max(0, 1 - x * x)),
        z = 0.0585 - 0.009 * x * x;
      p.set([x * wide, 0.0285 + corner + 0.0012 * round, z], k * 6);
      p.set([x * wide, 0.0285 + corner - (gap + 0.0012) * round, z - 0.12 * gap], k * 6 + 3);
    }
    this.mouth.geometry.attributes.position.needsUpdate = true;
  }
}
