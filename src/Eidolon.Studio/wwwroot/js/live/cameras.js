import * as THREE from "three";

// The ring around the volume: a shutter with its number for each camera, what the floor is seen by, and rays on request.
export class Cameras {
  constructor(stage, scene) {
    this.stage = stage;
    this.cameras = scene.cameras;
    this.group = new THREE.Group();
    stage.scene.add(this.group);
    this.tags = scene.cameras.map((c) => {
      const tag = document.createElement("div");
      tag.className = "e-camtag n";
      tag.textContent = c.name;
      stage.labels.append(tag);
      return tag;
    });
    this.places = scene.cameras.map((c) => new THREE.Vector3(...c.place));
    this.cells = scene.cells;
    this.paint(stage.palette);
    this.onDrawn = () => this.placeTags();
    stage.addEventListener("drawn", this.onDrawn);
  }

  paint(p) {
    this.group.clear();
    const lines = [],
      faces = [];
    this.cameras.forEach((c, i) => {
      const eye = this.places[i],
        ends = c.corners.map((d) => eye.clone().addScaledVector(new THREE.Vector3(...d), 0.42));
      ends.forEach((e, k) => {
        lines.push(eye, e, e, ends[(k + 1) % 4]);
        faces.push(eye, e, ends[(k + 1) % 4]);
      });
    });
    this.group.add(
      new THREE.LineSegments(
        new THREE.BufferGeometry().setFromPoints(lines),
        new THREE.LineBasicMaterial({ color: p.text, transparent: true, opacity: 0.45, fog: false }),
      ),
    );
    this.group.add(
      new THREE.Mesh(
        new THREE.BufferGeometry().setFromPoints(faces),
        new THREE.MeshBasicMaterial({
          color: p.text,
          transparent: true,
          opacity: 0.09,
          side: THREE.DoubleSide,
          depthWrite: false,
          fog: false,
        }),
      ),
    );
    const disc = new THREE.CircleGeometry(1, 14).rotateX(-Math.PI / 2);
    this.cover = new THREE.InstancedMesh(
      disc,
      new THREE.MeshBasicMaterial({ color: p.text, transparent: true, opacity: 0.42, depthWrite: false }),
      Math.max(1, this.cells.length),
    );
    this.cover.count = this.cells.length;
    const m = new THREE.Matrix4();
    this.cells.forEach(([x, z, n], k) => {
      const r = n < 3 ? 0.006 : n < 6 ? 0.016 : n < 9 ? 0.028 : 0.045;
      this.cover.setMatrixAt(k, m.makeScale(r, 1, r).setPosition(x, 0.004, z));
    });
    this.group.add(this.cover);
    this.cover.visible = this.covered ?? true;
    this.ray = new THREE.LineSegments(
      new THREE.BufferGeometry(),
      new THREE.LineBasicMaterial({ color: p.accent, transparent: true, opacity: 0.16, depthWrite: false }),
    );
    this.ray.frustumCulled = false;
    this.group.add(this.ray);
    this.stage.dirty = true;
  }

  setCover(on) {
    this.covered = on;
    this.cover.visible = on;
    this.stage.dirty = true;
  }

  // A camera that was knocked or lost says so on its badge.
  mark(lines) {
    lines.forEach((c, i) => this.tags[i]?.classList.toggle("must", !!c.knocked));
  }

  drawRays(markers, marks) {
    if (!markers) {
      this.ray.visible = false;
      return;
    }
    const points = [];
    for (let s = 0; s < markers.count; s++) {
      const k = s * 3,
        x = markers.samples.data[k];
      if (Number.isNaN(x) || (markers.selected >= 0 && markers.selected !== s)) continue;
      const p = new THREE.Vector3(x, markers.samples.data[k + 1], markers.samples.data[k + 2]),
        bits = marks[s * 2 + 1];
      for (let c = 0; c < this.places.length; c++) if (bits & (1 << c)) points.push(this.places[c], p);
    }
    this.ray.visible = true;
    this.ray.geometry.dispose();
    this.ray.geometry = new THREE.BufferGeometry().setFromPoints(points);
  }

  placeTags() {
    const v = new THREE.Vector3(),
      { clientWidth: w, clientHeight: h } = this.stage.element;
    this.places.forEach((p, i) => {
      v.copy(p).project(this.stage.camera);
      const x = ((v.x + 1) / 2) * w,
        y = ((1 - v.y) / 2) * h,
        seen = v.z < 1 && x > 8 && x < w - 8 && y > 8 && y < h - 8;
      this.tags[i].style.setProperty("transform", `translate(${x}px, ${y}px) translate(-50%, -50%)`);
      this.tags[i].classList.toggle("e-hidden", !seen);
    });
  }

  remove() {
    this.stage.scene.remove(this.group);
    this.tags.forEach((t) => t.remove());
    this.stage.removeEventListener("drawn", this.onDrawn);
  }
}
