import * as THREE from "three";

// One, two or four views of the Stage in one picture: the one that can be turned at the upper left, then from the front, the left and above.
const others = [
  [0, 0.04, 1],
  [1, 0.04, 0],
  [0, 1, 0.001],
];

export class Views {
  constructor(stage) {
    this.stage = stage;
    this.count = 1;
    this.cameras = others.map(() => new THREE.PerspectiveCamera(20, 1, 0.1, 80));
  }

  // Which share of the Stage the view has that can be turned.
  get share() {
    return { x: this.count > 1 ? 0.5 : 1, y: this.count > 2 ? 0.5 : 1 };
  }

  next() {
    this.count = { 1: 2, 2: 4, 4: 1 }[this.count];
    this.stage.resize();
    return this.count;
  }

  render() {
    const { renderer, scene, camera, element } = this.stage,
      [w, h] = [element.clientWidth, element.clientHeight];
    if (this.count === 1 || this.stage.through) {
      renderer.setScissorTest(false);
      renderer.setViewport(0, 0, w, h);
      renderer.render(scene, camera);
      return;
    }
    const { x, y } = this.share;
    renderer.setScissorTest(true);
    this.part(0, h * (1 - y), w * x, h * y, camera);
    const target = this.stage.controls.target,
      away = camera.position.distanceTo(target) * 1.75,
      places = this.count === 2 ? [[x, 0]] : [[x, 0.5], [0, 0], [x, 0]];
    places.forEach(([left, bottom], k) => {
      const own = this.cameras[k];
      own.aspect = (w * x) / (h * y);
      own.updateProjectionMatrix();
      own.position.copy(target).add(new THREE.Vector3(...others[k]).multiplyScalar(away));
      own.lookAt(target);
      this.part(w * left, h * bottom, w * x, h * y, own);
    });
  }

  part(x, y, w, h, camera) {
    const { renderer, scene } = this.stage;
    renderer.setViewport(x, y, w, h);
    renderer.setScissor(x, y, w - 1, h - 1);
    renderer.render(scene, camera);
  }
}
