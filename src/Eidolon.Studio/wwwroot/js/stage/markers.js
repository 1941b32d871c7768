import * as THREE from "three";
import { makeDots } from "./dots.js";

// Markers as dots, links as lines, one trail; positions are read straight from the take's samples.
export class Markers {
  constructor(group, info, links, samples, palette) {
    this.info = info;
    this.links = links;
    this.samples = samples;
    this.count = info.length;
    this.palette = palette;
    this.selected = -1;
    this.also = [];
    this.rival = null;
    this.hover = -1;
    this.pinned = new Set();
    this.shown = { dots: true, links: true };
    this.dots = makeDots(this.count);
    group.add(this.dots);
    this.lines = new THREE.LineSegments(
      new THREE.BufferGeometry(),
      new THREE.LineBasicMaterial({ vertexColors: true, transparent: true, opacity: 0.75, toneMapped: false }),
    );
    this.lines.geometry.setAttribute("position", new THREE.Float32BufferAttribute(new Float32Array(Math.max(1, links.length) * 6), 3));
    this.lines.geometry.setAttribute("color", new THREE.Float32BufferAttribute(new Float32Array(Math.max(1, links.length) * 6), 3));
    this.lines.frustumCulled = false;
    group.add(this.lines);
    this.trail = new THREE.Line(
      new THREE.BufferGeometry(),
      new THREE.LineBasicMaterial({ color: palette.text, transparent: true, opacity: 0.55 }),
    );
    this.trail.frustumCulled = false;
    group.add(this.trail);
    this.proposal = new THREE.Line(
      new THREE.BufferGeometry(),
      new THREE.LineDashedMaterial({ color: palette.accent, dashSize: 0.02, gapSize: 0.012 }),
    );
    this.proposal.frustumCulled = false;
    group.add(this.proposal);
    // The same dots in another state of the take, as small points: what a step has moved is seen at once.
    this.ghosts = new THREE.Points(
      new THREE.BufferGeometry(),
      new THREE.PointsMaterial({
        color: palette.must,
        size: 5,
        sizeAttenuation: false,
        transparent: true,
        opacity: 0.85,
        depthTest: false,
      }),
    );
    this.ghosts.frustumCulled = false;
    group.add(this.ghosts);
    this._m = new THREE.Matrix4();
    this.recolour();
  }

  recolour() {
    const c = new THREE.Color();
    this.dots.material.uniforms.rim.value.copy(this.palette.line);
    for (let i = 0; i < this.count; i++) {
      c.copy(this.info[i].named ? (this.palette[this.info[i].side] ?? this.palette.C) : this.palette.N);
      if (i === this.selected || this.also.includes(i)) c.copy(this.palette.accent);
      else if (i === this.hover) c.copy(this.palette.text);
      this.dots.setColorAt(i, c);
    }
    if (this.dots.instanceColor) this.dots.instanceColor.needsUpdate = true;
  }

  at(frame, i, out) {
    const d = this.samples.array(i),
      k = this.samples.offset(frame, i);
    return out.set(d[k], d[k + 1], d[k + 2]);
  }

  seen(frame, i) {
    return !Number.isNaN(this.samples.array(i)[this.samples.offset(frame, i)]);
  }

  update(frame) {
    const v = new THREE.Vector3();
    for (let i = 0; i < this.count; i++) {
      this.at(frame, i, v);
      const hidden = Number.isNaN(v.x) || !this.shown.dots;
      const size = hidden
        ? 0
        : i === this.selected
          ? 1.7
          : this.also.includes(i)
            ? 1.5
            : i === this.hover
              ? 1.5
              : this.info[i].named
                ? 1
                : 1.15;
      this._m.makeScale(size, size, size);
      if (!hidden) this._m.setPosition(v.x, v.y, v.z);
      this.dots.setMatrixAt(i, this._m);
    }
    this.dots.instanceMatrix.needsUpdate = true;
    this.updateLinks(frame);
    this.updateGhosts(frame);
  }

  updateLinks(frame) {
    const pos = this.lines.geometry.attributes.position.array,
      col = this.lines.geometry.attributes.color.array;
    const a = new THREE.Vector3(),
      b = new THREE.Vector3(),
      c = new THREE.Color();
    this.links.forEach((link, k) => {
      if (!link) {
        pos.fill(0, k * 6, k * 6 + 6);
        return;
      }
      const [i, j, usual] = link;
      this.at(frame, i, a);
      this.at(frame, j, b);
      const hidden = Number.isNaN(a.x + b.x) || !this.shown.links;
      if (hidden) {
        pos.fill(0, k * 6, k * 6 + 6);
        return;
      }
      pos.set([a.x, a.y, a.z, b.x, b.y, b.z], k * 6);
      // A link that is far from its usual length says so in colour, from 8 mm on.
      const off = Math.abs(a.distanceTo(b) - usual);
      c.copy(this.palette[this.info[i].side] ?? this.palette.C).lerp(this.palette.must, Math.min(1, Math.max(0, (off - 0.008) / 0.025)));
      col.set([c.r, c.g, c.b, c.r, c.g, c.b], k * 6);
    });
    this.lines.geometry.attributes.position.needsUpdate = true;
    this.lines.geometry.attributes.color.needsUpdate = true;
  }

  dispose() {
    for (const o of [this.dots, this.lines, this.trail, this.proposal, this.ghosts]) {
      o.geometry.dispose();
      o.material.dispose();
    }
    this.dots.dispose();
  }

  // Another state's samples, by name: [marker here, its path there].
  setRival(paths) {
    this.rival = paths;
  }

  updateGhosts(frame) {
    const points = [];
    for (const [, path] of this.rival ?? [])
      if (!Number.isNaN(path[frame * 3])) points.push(path[frame * 3], path[frame * 3 + 1], path[frame * 3 + 2]);
    this.ghosts.visible = points.length > 0;
    if (points.length) {
      this.ghosts.geometry.dispose();
      this.ghosts.geometry = new THREE.BufferGeometry().setAttribute("position", new THREE.Float32BufferAttribute(points, 3));
    }
  }

  // Every dot within a rectangle of the screen.
  within(frame, camera, box, width, height) {
    const v = new THREE.Vector3(),
      found = [];
    for (let i = 0; i < this.count; i++) {
      this.at(frame, i, v);
      if (Number.isNaN(v.x)) continue;
      v.project(camera);
      const x = ((v.x + 1) / 2) * width,
        y = ((1 - v.y) / 2) * height;
      if (v.z <= 1 && x >= box.left && x <= box.right && y >= box.top && y <= box.bottom) found.push(i);
    }
    return found;
  }

  setTrail(marker, frame, span, frames) {
    const points = [];
    for (let f = Math.max(0, frame - span); f <= Math.min(frames - 1, frame + span) && marker >= 0; f++) {
      if (this.seen(f, marker)) points.push(this.at(f, marker, new THREE.Vector3()));
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
    let best = -1,
      bestDistance = 14 * 14;
    for (let i = 0; i < this.count; i++) {
      this.at(frame, i, v);
      if (Number.isNaN(v.x)) continue;
      v.project(camera);
      if (v.z > 1) continue;
      const dx = ((v.x + 1) / 2) * width - x,
        dy = ((1 - v.y) / 2) * height - y,
        d = dx * dx + dy * dy;
      if (d < bestDistance) {
        best = i;
        bestDistance = d;
      }
    }
    return best;
  }
}
