import * as THREE from "three";

// A ring on the floor under every part of a body that is planted now.
export class ContactRings {
  constructor(stage) {
    this.stage = stage;
    this.list = [];
    this.rings = [];
  }

  // Planted parts of the body: [figure, joint, first frame, last frame, side].
  set(list) {
    this.list = list ?? [];
    this.rings.forEach((r) => r.removeFromParent());
    this.rings = [];
    this.stage.dirty = true;
  }

  update(frame) {
    const { figures, palette } = this.stage,
      v = new THREE.Vector3();
    let n = 0;
    for (const [who, joint, start, end, side] of this.list) {
      const bone = figures[who]?.bones[joint];
      if (!bone || frame < start || frame > end || !figures[who].group.visible) continue;
      this.rings[n] ??= this.ring();
      const ring = this.rings[n++];
      bone.getWorldPosition(v);
      ring.position.set(v.x, Math.max(0.004, v.y > 0.3 ? v.y - 0.06 : 0.004), v.z);
      ring.material.color.copy(palette[side] ?? palette.C);
      ring.visible = true;
    }
    this.rings.slice(n).forEach((r) => {
      r.visible = false;
    });
  }

  ring() {
    const ring = new THREE.Mesh(
      new THREE.RingGeometry(0.07, 0.085, 32),
      new THREE.MeshBasicMaterial({ transparent: true, opacity: 0.9, side: THREE.DoubleSide, toneMapped: false, depthTest: false }),
    );
    ring.rotation.x = -Math.PI / 2;
    this.stage.content.add(ring);
    return ring;
  }
}
