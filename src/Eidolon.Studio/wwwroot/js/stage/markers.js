import * as THREE from 'three';

// Markers as dots, links as lines, one trail; positions are read straight from the take's array.
export class Markers {
  constructor(group, info, links, data, palette) {
    this.info = info;
    this.links = links;
    this.data = data;
    this.count = info.length;
    this.palette = palette;
    this.selected = -1;
    this.hover = -1;
    this.pinned = new Set();
    this.shown = { dots: true, links: true };
    const dot = new THREE.SphereGeometry(0.0115, 12, 8);
    this.dots = new THREE.InstancedMesh(dot, new THREE.MeshBasicMaterial({ toneMapped: false }), Math.max(1, this.count));
    this.dots.frustumCulled = false;
    this.dots.instanceMatrix.setUsage(THREE.DynamicDrawUsage);
    group.add(this.dots);
    this.lines = new THREE.LineSegments(new THREE.BufferGeometry(), new THREE.LineBasicMaterial({ vertexColors: true, transparent: true, opacity: 0.75, toneMapped: false }));
    this.lines.geometry.setAttribute('position', new THREE.Float32BufferAttribute(new Float32Array(Math.max(1, links.length) * 6), 3));
    this.lines.geometry.setAttribute('color', new THREE.Float32BufferAttribute(new Float32Array(Math.max(1, links.length) * 6), 3));
    this.lines.frustumCulled = false;
    group.add(this.lines);
    this.trail = new THREE.Line(new THREE.BufferGeometry(), new THREE.LineBasicMaterial({ color: palette.text, transparent: true, opacity: 0.55 }));
    this.trail.frustumCulled = false;
    group.add(this.trail);
    this.proposal = new THREE.Line(new THREE.BufferGeometry(), new THREE.LineDashedMaterial({ color: palette.accent, dashSize: 0.02, gapSize: 0.012 }));
    this.proposal.frustumCulled = false;
    group.add(this.proposal);
    this._m = new THREE.Matrix4();
    this.recolour();
  }

  recolour() {
    const c = new THREE.Color();
    for (let i = 0; i < this.count; i++) {
      c.copy(this.info[i].named ? this.palette[this.info[i].side] ?? this.palette.C : this.palette.N);
      if (i === this.selected) c.copy(this.palette.accent);
      else if (i === this.hover) c.copy(this.palette.text);
      this.dots.setColorAt(i, c);
    }
    if (this.dots.instanceColor) this.dots.instanceColor.needsUpdate = true;
  }

  at(frame, i, out) {
    const k = (frame * this.count + i) * 3;
    return out.set(this.data[k], this.data[k + 1], this.data[k + 2]);
  }

  seen(frame, i) { return !Number.isNaN(this.data[(frame * this.count + i) * 3]); }

  update(frame) {
    const v = new THREE.Vector3();
    for (let i = 0; i < this.count; i++) {
      this.at(frame, i, v);
      const hidden = Number.isNaN(v.x) || !this.shown.dots;
      const size = hidden ? 0 : i === this.selected ? 1.7 : i === this.hover ? 1.5 : this.info[i].named ? 1 : 1.15;
      this._m.makeScale(size, size, size);
      if (!hidden) this._m.setPosition(v.x, v.y, v.z);
      this.dots.setMatrixAt(i, this._m);
    }
    this.dots.instanceMatrix.needsUpdate = true;
    this.updateLinks(frame);
  }

  updateLinks(frame) {
    const pos = this.lines.geometry.attributes.position.array, col = this.lines.geometry.attributes.color.array;
    const a = new THREE.Vector3(), b = new THREE.Vector3(), c = new THREE.Color();
    this.links.forEach((link, k) => {
      if (!link) { pos.fill(0, k * 6, k * 6 + 6); return; }
      const [i, j, usual] = link;
      this.at(frame, i, a);
      this.at(frame, j, b);
      const hidden = Number.isNaN(a.x + b.x) || !this.shown.links;
      if (hidden) { pos.fill(0, k * 6, k * 6 + 6); return; }
      pos.set([a.x, a.y, a.z, b.x, b.y, b.z], k * 6);
      // A link that is far from its usual length says so in colour, from 8 mm on.
      const off = Math.abs(a.distanceTo(b) - usual);
      c.copy(this.palette[this.info[i].side] ?? this.palette.C).lerp(this.palette.must, Math.min(1, Math.max(0, (off - 0.008) / 0.025)));
      col.set([c.r, c.g, c.b, c.r, c.g, c.b], k * 6);
    });
    this.lines.geometry.attributes.position.needsUpdate = true;
    this.lines.geometry.attributes.color.needsUpdate = true;
  }

  setTrail(marker, frame, span, frames) {
    const points = [];
    for (let f = Math.max(0, frame - span); f <= Math.min(frames - 1, frame + span) && marker >= 0; f++) {
      const k = (f * this.count + marker) * 3;
      if (!Number.isNaN(this.data[k])) points.push(new THREE.Vector3(this.data[k], this.data[k + 1], this.data[k + 2]));
    }
    this.trail.geometry.dispose();
    this.trail.geometry = new THREE.BufferGeometry().setFromPoints(points);
  }

  setProposal(points) {
    const list = [];
    for (let i = 0; points && i < points.length; i += 3) list.push(new THREE.Vector3(points[i], points[i + 1], points[i + 2]));
    this.proposal.geometry.dispose();
    this.proposal.geometry = new THREE.BufferGeometry().setFromPoints(list);
    if (list.length > 1) this.proposal.computeLineDistances();
  }

  // The nearest dot to a place on the screen, within 14 pixels.
  pick(frame, camera, x, y, width, height) {
    const v = new THREE.Vector3();
    let best = -1, bestDistance = 14 * 14;
    for (let i = 0; i < this.count; i++) {
      this.at(frame, i, v);
      if (Number.isNaN(v.x)) continue;
      v.project(camera);
      if (v.z > 1) continue;
      const dx = (v.x + 1) / 2 * width - x, dy = (1 - v.y) / 2 * height - y, d = dx * dx + dy * dy;
      if (d < bestDistance) { best = i; bestDistance = d; }
    }
    return best;
  }
}
