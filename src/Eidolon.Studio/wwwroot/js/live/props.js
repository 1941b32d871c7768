import * as THREE from "three";

const models = {
  Crate: (p) => {
    const box = new THREE.Mesh(
      new THREE.BoxGeometry(0.46, 0.36, 0.52),
      new THREE.MeshStandardMaterial({ color: p.C, roughness: 0.9, transparent: true, opacity: 0.42 }),
    );
    box.add(
      new THREE.LineSegments(
        new THREE.EdgesGeometry(box.geometry),
        new THREE.LineBasicMaterial({ color: p.text, transparent: true, opacity: 0.7 }),
      ),
    );
    return box;
  },
  "Lantern pole": (p) => {
    const g = new THREE.Group(),
      wood = new THREE.MeshStandardMaterial({ color: p.C, roughness: 0.9 });
    const pole = new THREE.Mesh(new THREE.CylinderGeometry(0.014, 0.017, 1.6, 10), wood);
    pole.position.y = 0.1;
    const lamp = new THREE.Mesh(
      new THREE.CylinderGeometry(0.05, 0.06, 0.15, 8),
      new THREE.MeshStandardMaterial({ color: p.look, emissive: p.look, emissiveIntensity: 0.35 }),
    );
    lamp.position.set(0.09, 0.76, 0.01);
    g.add(pole, lamp);
    return g;
  },
};

// Props as they are seen: their model where one is tied, otherwise the lines between their markers; pale when not to be trusted.
export class Props {
  constructor(stage, props) {
    this.stage = stage;
    this.items = props.map((p) => {
      const group = new THREE.Group();
      const points = p.markers.map((m) => new THREE.Vector3(...m)),
        pairs = [];
      points.forEach((a, i) => points.slice(i + 1).forEach((b) => pairs.push(a, b)));
      group.add(
        new THREE.LineSegments(
          new THREE.BufferGeometry().setFromPoints(pairs),
          new THREE.LineBasicMaterial({ color: stage.palette.text, transparent: true, opacity: 0.4 }),
        ),
      );
      const model = models[p.name]?.(stage.palette);
      if (model) group.add(model);
      group.visible = false;
      stage.content.add(group);
      const tag = document.createElement("div");
      tag.className = "e-tag";
      stage.labels.append(tag);
      return { name: p.name, group, tag };
    });
    this.onDrawn = () => this.placeTags();
    stage.addEventListener("drawn", this.onDrawn);
  }

  update(d) {
    this.items.forEach((item, i) => {
      const k = i * 8,
        seen = !Number.isNaN(d[k]) && d[k + 7] > 0;
      item.group.visible = seen;
      item.trust = d[k + 7];
      if (!seen) return;
      item.group.position.set(d[k], d[k + 1], d[k + 2]);
      item.group.quaternion.set(d[k + 3], d[k + 4], d[k + 5], d[k + 6]);
    });
  }

  placeTags() {
    const v = new THREE.Vector3(),
      { clientWidth: w, clientHeight: h } = this.stage.element;
    for (const item of this.items) {
      v.copy(item.group.position).project(this.stage.camera);
      item.tag.textContent = item.trust < 0.3 ? `${item.name}: not to be trusted` : item.name;
      item.tag.style.setProperty("transform", `translate(${((v.x + 1) / 2) * w}px, ${((1 - v.y) / 2) * h - 34}px) translate(-50%, 0)`);
      item.tag.classList.toggle("e-hidden", !item.group.visible || v.z > 1);
    }
  }

  remove() {
    for (const item of this.items) {
      this.stage.content.remove(item.group);
      item.tag.remove();
    }
    this.stage.removeEventListener("drawn", this.onDrawn);
  }
}
