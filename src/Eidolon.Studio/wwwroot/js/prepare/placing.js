import * as THREE from "three";

const $ = (id) => document.getElementById(id);

// Joints of a skeleton that was placed in the mesh, put elsewhere by hand: in the plane one looks at, on both sides alike.
export class Placing {
  constructor(page) {
    Object.assign(this, { page, stage: page.stage, moved: new Map(), held: null });
    const canvas = this.stage.canvas;
    canvas.addEventListener("pointerdown", (e) => this.down(e), { capture: true });
    canvas.addEventListener("pointermove", (e) => this.move(e));
    addEventListener("pointerup", () => this.up());
    document.addEventListener("change", (e) => {
      if (e.target.id === "place-joints") this.page.redraw();
    });
    document.addEventListener("click", (e) => {
      if (e.target.closest("#bind-anew")) this.bind();
      if (e.target.closest("#place-back")) this.reset();
    });
  }

  get on() {
    return !!$("place-joints")?.checked;
  }

  reset() {
    for (const [name, was] of this.moved) this.page.joint(name).at = was;
    this.moved.clear();
    this.shown();
  }

  down(e) {
    if (!this.on || e.button !== 0) return;
    const joint = this.page.near(e);
    if (!joint?.role) return;
    e.stopImmediatePropagation();
    this.stage.controls.enabled = false;
    this.held = joint;
  }

  move(e) {
    if (!this.held || !e.buttons) return;
    const at = new THREE.Vector3(...this.held.at),
      facing = this.stage.camera.getWorldDirection(new THREE.Vector3());
    const to = this.stage.under(e).ray.intersectPlane(new THREE.Plane().setFromNormalAndCoplanarPoint(facing, at), new THREE.Vector3());
    if (to) this.put(this.held, to.toArray());
  }

  // A joint elsewhere, and its fellow on the other side where its mirror image lies; what has no side stays in the middle.
  put(joint, at) {
    const plane = this.plane(),
      fellow = this.page.fellow(joint),
      both = $("brush-mirror")?.checked ?? true;
    const keep = (j, to) => {
      if (!this.moved.has(j.name)) this.moved.set(j.name, j.at);
      j.at = to;
    };
    keep(joint, at);
    if (both && plane && fellow && fellow !== joint) {
      const v = new THREE.Vector3(...at);
      keep(fellow, v.addScaledVector(plane.normal, -2 * plane.distanceToPoint(v)).toArray());
    }
    this.shown();
  }

  // Between the sides: where the thighs are equally far.
  plane() {
    const [l, r] = ["ThighL", "ThighR"].map((role) => this.page.rig().joints.find((j) => j.role === role));
    if (!l || !r) return null;
    const a = new THREE.Vector3(...(this.moved.get(l.name) ?? l.at)),
      b = new THREE.Vector3(...(this.moved.get(r.name) ?? r.at));
    return new THREE.Plane().setFromNormalAndCoplanarPoint(a.clone().sub(b).normalize(), a.clone().add(b).divideScalar(2));
  }

  up() {
    if (!this.held) return;
    this.held = null;
    this.stage.controls.enabled = true;
  }

  shown() {
    this.page.redraw();
    for (const id of ["bind-anew", "place-back"]) if ($(id)) $(id).disabled = !this.moved.size;
  }

  bind() {
    const joints = Object.fromEntries(
      [...this.moved.keys()].map((name) => {
        const j = this.page.joint(name);
        return [j.role, j.at.map((v) => Math.round(v * 1e5) / 1e5)];
      }),
    );
    window.htmx.ajax("POST", "?handler=Bind", { values: { placed: JSON.stringify({ joints }) }, target: "#job", swap: "innerHTML" });
  }
}
