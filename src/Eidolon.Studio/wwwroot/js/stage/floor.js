import * as THREE from "three";

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
    this.scene.background = on ? this.sky : null;
    this.scene.fog = on ? this.haze : null;
  }

  paint(p, volume = { x: 8, z: 6 }) {
    this.group.clear();
    this.scene.background = p.sky.clone().lerp(p.glow, 0.42);
    this.scene.fog = new THREE.Fog(p.floor.clone().lerp(p.glow, 0.3), 9, 26);
    const ground = new THREE.Mesh(new THREE.CircleGeometry(40, 64), new THREE.MeshLambertMaterial({ color: p.floor }));
    ground.rotation.x = -Math.PI / 2;
    ground.receiveShadow = true;
    ground.position.y = -0.002;
    this.group.add(ground);
    const points = [];
    for (let i = -12; i <= 12; i++) points.push(i, 0, -12, i, 0, 12, -12, 0, i, 12, 0, i);
    const grid = new THREE.LineSegments(
      new THREE.BufferGeometry().setAttribute("position", new THREE.Float32BufferAttribute(points, 3)),
      new THREE.LineBasicMaterial({ color: p.line, transparent: true, opacity: 0.28 }),
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
    const light = new THREE.HemisphereLight(p.dark ? 0xcfc4ff : 0xffffff, p.dark ? 0x4a3a52 : 0xb8a8a0, p.dark ? 1.5 : 1.9);
    this.group.add(light);
    const sun = new THREE.DirectionalLight(p.dark ? 0xfff0dc : 0xffffff, p.dark ? 1.9 : 1.7);
    sun.position.set(3.5, 6, 4);
    sun.castShadow = true;
    sun.shadow.mapSize.set(1024, 1024);
    Object.assign(sun.shadow.camera, { left: -5, right: 5, top: 5, bottom: -5, near: 0.5, far: 20 });
    sun.shadow.radius = 6;
    this.group.add(sun);
    const rim = new THREE.DirectionalLight(p.dark ? 0x98a8ff : 0xffe6d0, 0.7);
    rim.position.set(-4, 3, -5);
    this.group.add(rim);
    this.sky = this.scene.background;
    this.haze = this.scene.fog;
    if (this.bare) this.ground(false);
  }
}
