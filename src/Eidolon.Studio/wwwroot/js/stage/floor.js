import * as THREE from "three";
import { shaded } from "./shading.js";

// A sky that glows above the horizon and darkens upwards.
function dome(p) {
  const sky = new THREE.Mesh(
    new THREE.SphereGeometry(60, 32, 16),
    new THREE.ShaderMaterial({
      side: THREE.BackSide,
      depthWrite: false,
      uniforms: { low: { value: p.far.clone().convertLinearToSRGB() }, high: { value: p.sky.clone().convertLinearToSRGB() } },
      vertexShader:
        "varying vec3 way; void main() { way = position; gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0); }",
      fragmentShader:
        "uniform vec3 low; uniform vec3 high; varying vec3 way; " +
        "void main() { gl_FragColor = vec4(mix(low, high, smoothstep(0.0, 0.42, normalize(way).y)), 1.0); }",
    }),
  );
  sky.renderOrder = -1;
  sky.frustumCulled = false;
  return sky;
}

// Sky, floor with one-metre squares that fade away, and the edge of the capture volume with its measures.
export class Floor {
  constructor(scene) {
    this.scene = scene;
    this.group = new THREE.Group();
    scene.add(this.group);
  }

  // The floor and the sky, shown or not; the lights stay.
  ground(on) {
    this.bare = !on;
    for (const o of this.group.children) if (!o.isLight) o.visible = on;
    this.scene.background = null;
    this.scene.fog = on ? this.haze : null;
  }

  paint(p, volume = { x: 8, z: 6 }) {
    this.group.clear();
    this.scene.fog = new THREE.Fog(p.far, 5, 22);
    this.group.add(dome(p));
    const ground = new THREE.Mesh(new THREE.CircleGeometry(40, 64), shaded(p.floor, p));
    ground.rotation.x = -Math.PI / 2;
    ground.receiveShadow = true;
    ground.position.y = -0.002;
    this.group.add(ground);
    const points = [];
    for (let i = -12; i <= 12; i++) points.push(i, 0, -12, i, 0, 12, -12, 0, i, 12, 0, i);
    const grid = new THREE.LineSegments(
      new THREE.BufferGeometry().setAttribute("position", new THREE.Float32BufferAttribute(points, 3)),
      new THREE.LineBasicMaterial({ color: p.line, transparent: true, opacity: 0.42 }),
    );
    this.group.add(grid);
    const x = volume.x / 2,
      z = volume.z / 2;
    const edge = new THREE.LineLoop(
      new THREE.BufferGeometry().setAttribute(
        "position",
        new THREE.Float32BufferAttribute([-x, 0.002, -z, x, 0.002, -z, x, 0.002, z, -x, 0.002, z], 3),
      ),
      new THREE.LineBasicMaterial({ color: p.text, transparent: true, opacity: 0.55 }),
    );
    this.group.add(edge);
    // One light, from the upper left as one first looks: the materials hold the rest.
    const sun = new THREE.DirectionalLight(0xffffff, 1);
    sun.position.set(-2.6, 6, 4.4);
    sun.castShadow = true;
    sun.shadow.mapSize.set(1024, 1024);
    Object.assign(sun.shadow.camera, { left: -5, right: 5, top: 5, bottom: -5, near: 0.5, far: 20 });
    sun.shadow.radius = 5;
    sun.shadow.normalBias = 0.035;
    sun.shadow.bias = -0.0008;
    this.group.add(sun);
    this.haze = this.scene.fog;
    if (this.bare) this.ground(false);
  }
}
