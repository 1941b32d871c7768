import * as THREE from "three";
import { propGroup } from "../stage/props.js";

// Props as they are seen: their model where one is tied, otherwise the lines between their markers; pale when not to be trusted.
export class Props {
  constructor(stage, props) {
    this.stage = stage;
    this.items = props.map((p) => {
      const group = new THREE.Group();
      propGroup(p, stage.palette).then((model) => {
        group.add(model);
        stage.dirty = true;
      });
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
