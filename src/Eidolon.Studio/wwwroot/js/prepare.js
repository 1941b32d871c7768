import { anew, onKey } from "./app.js";
import { Stage } from "./stage/stage.js";
import { seeThrough, shadeAll } from "./stage/shading.js";
import { Placing } from "./prepare/placing.js";
import { Weights } from "./prepare/weights.js";
import * as THREE from "three";
import { GLTFLoader } from "three/addons/loaders/GLTFLoader.js";

// A character at rest: its roles, its joints, and what a remedy would make of it. The server says all of it; here it is shown and chosen.
const main = document.getElementById("main"),
  stage = new Stage(document.querySelector(".e-stage"), null),
  near = 14;
let rig = null,
  figure = null,
  state = null,
  armed = null,
  chosen = null,
  show = localStorage.getItem("prepare:show") ?? "through";
const page = {
  stage,
  api: main.dataset.api,
  chosen: () => chosen,
  rig: () => rig,
  joint: (name) => rig.joints.find((j) => j.name === name),
  near: (e) => {
    const i = nearest(e);
    return i < 0 ? null : rig.joints[i];
  },
  // The joint that plays the same on the other side; of what has no side itself.
  fellow: (joint) => rig.joints.find((j) => j.role === joint.role.replace(/[LR]$/, (s) => (s === "L" ? "R" : "L"))),
  redraw: () => {
    lay(now, "at");
    ringed();
    stage.dirty = true;
  },
  placing: () => placing.on,
  // A stroke is a step of the draft: what can be kept and taken back is written anew.
  kept: () => htmx.ajax("GET", location.pathname, { select: "#part-rest", target: "#part-rest", swap: "outerHTML" }),
};
const weights = new Weights(page),
  placing = new Placing(page);
window.eidolon = { weights, placing, stage, rig: () => rig, at: (name) => screenOf(rig.joints.findIndex((j) => j.name === name)) };

const threads = (opacity) => {
  const lines = new THREE.LineSegments(
    new THREE.BufferGeometry(),
    new THREE.LineBasicMaterial({ vertexColors: true, depthTest: false, transparent: true, opacity, toneMapped: false }),
  );
  lines.frustumCulled = false;
  lines.renderOrder = 2;
  stage.content.add(lines);
  return lines;
};
const now = threads(1),
  before = threads(0.4);
const rings = new Map();
stage.centre = (out = new THREE.Vector3()) => out.set(0, rig ? Math.min(rig.height, 4) * 0.5 : 0.9, 0);

function lay(lines, key, colour) {
  const pairs = rig.joints.flatMap((j, i) => (j.parent >= 0 ? [[rig.joints[j.parent], rig.joints[i]]] : [])),
    pos = new Float32Array(pairs.length * 6),
    col = new Float32Array(pairs.length * 6);
  pairs.forEach(([a, b], k) => {
    pos.set([...a[key], ...b[key]], k * 6);
    const c = colour ?? stage.palette[b.side] ?? stage.palette.text;
    col.set([c.r, c.g, c.b, c.r, c.g, c.b], k * 6);
  });
  lines.geometry.setAttribute("position", new THREE.BufferAttribute(pos, 3));
  lines.geometry.setAttribute("color", new THREE.BufferAttribute(col, 3));
}

function screenOf(joint, out = new THREE.Vector3()) {
  const box = stage.canvas.getBoundingClientRect();
  out.set(...rig.joints[joint].at).project(stage.camera);
  return [box.left + ((out.x + 1) / 2) * box.width, box.top + ((1 - out.y) / 2) * box.height];
}

// Rings lie over the Stage and follow whenever it is turned.
function drawRings() {
  if (!rig) return;
  stage.camera.updateMatrixWorld();
  const v = new THREE.Vector3(),
    [w, h] = [stage.element.clientWidth, stage.element.clientHeight];
  rig.joints.forEach((j, i) => {
    v.set(...j.at).project(stage.camera);
    rings
      .get(i)
      ?.style.setProperty(
        "transform",
        `translate(${((v.x + 1) / 2) * w}px, ${((1 - v.y) / 2) * h}px) translate(-50%, -50%)`,
      );
  });
}

function ringed() {
  for (const r of rings.values()) r.remove();
  rings.clear();
  if (show === "body") return;
  rig.joints.forEach((j, i) => {
    const ring = document.createElement("i");
    ring.className = `e-grip ${j.side.toLowerCase()} ${j.finger ? "small" : ""} ${j.asked ? "asked" : ""} ${chosen === j.name ? "sel" : ""}`;
    stage.labels.append(ring);
    rings.set(i, ring);
  });
  drawRings();
}

// The sheet at the right: the rest check, or weights.
function weigh(on) {
  main.classList.toggle("weighing", on);
  for (const a of document.querySelectorAll(".e-steps [data-knot]")) a.classList.toggle("shown", on === (a.dataset.knot === "Weights"));
  if (show === "bones" && on) show = "body";
  if (!on) weights.plain();
  weights.toggle(on).then(shown);
}

function nearest(e) {
  if (!rig || show === "body") return -1;
  const box = stage.canvas.getBoundingClientRect(),
    [x, y] = [e.clientX - box.left, e.clientY - box.top];
  let best = -1,
    least = near;
  rig.joints.forEach((_, i) => {
    const [a, b] = screenOf(i),
      d = Math.hypot(a - box.left - x, b - box.top - y);
    if (d < least) [best, least] = [i, d];
  });
  return best;
}

function shown() {
  for (const b of document.querySelectorAll("#show [data-show]")) {
    b.classList.toggle("on", b.dataset.show === show);
    b.setAttribute("aria-pressed", b.dataset.show === show);
  }
  if (figure) {
    figure.visible = show !== "bones";
    figure.traverse((o) => {
      if (o.isMesh && !weights.on) {
        seeThrough(o.material, show === "through" ? 0.62 : 1);
        o.castShadow = show === "body";
      }
    });
  }
  now.visible = show !== "body";
  before.visible = show !== "body" && !!rig?.moved;
  if (rig) ringed();
  document.getElementById("said").textContent = rig?.moved ? "Rest pose as proposed; as it came in grey" : "Rest pose as it came";
  stage.dirty = true;
}

async function load() {
  const tree = document.getElementById("part-tree");
  if (tree.dataset.state === state) return;
  state = tree.dataset.state;
  document.body.dataset.ready = "false";
  const wanted = state,
    [joints, gltf] = await Promise.all([
      fetch(`${main.dataset.api}/joints`).then((r) => r.json()),
      new GLTFLoader().loadAsync(`${main.dataset.api}/figure.glb?${state}`),
    ]);
  if (wanted !== state) return;
  placing.moved.clear();
  const first = !rig || Math.abs(rig.height / joints.height - 1) > 0.2;
  rig = joints;
  if (figure) stage.content.remove(figure);
  figure = gltf.scene;
  shadeAll(figure, stage.palette);
  stage.content.add(figure);
  await weights.load(gltf);
  lay(now, "at");
  lay(before, "came", stage.palette["text-3"] ?? stage.palette.text);
  if (first) face();
  shown();
  document.body.dataset.ready = "true";
}

// The figure whole and from the front, whatever its size.
function face(way = [0, 0.1, 1]) {
  const h = Math.max(0.5, rig.height);
  stage.controls.maxDistance = Math.max(22, h * 4);
  stage.camera.far = Math.max(80, h * 12);
  stage.camera.updateProjectionMatrix();
  stage.controls.target.set(0, h * 0.5, 0);
  stage.camera.position.set(0, h * 0.5, 0).add(new THREE.Vector3(...way).normalize().multiplyScalar(h * 2.1));
  stage.controls.update();
  stage.dirty = true;
}

// A role as the figure says it, without the joint that plays it.
const words = (role) => document.querySelector(`.e-rolefig [data-role="${role}"]`).getAttribute("aria-label").split(":")[0];
const locked = () => !!document.getElementById("unlock");

function mark() {
  for (const k of document.querySelectorAll(".e-rolefig .e-knob")) k.classList.toggle("armed", k.dataset.role === armed);
  for (const k of document.querySelectorAll(".e-hierarchy .e-knot")) {
    k.classList.toggle("sel", k.dataset.joint === chosen);
    k.classList.toggle("armed", !!armed && k.dataset.role === armed);
  }
  if (!locked())
    document.getElementById("armed").textContent = armed
      ? `${words(armed)}: now choose its joint in the Hierarchy or on the Stage. Delete: nothing plays it.`
      : chosen
        ? `${chosen} chosen: choose the role it plays.`
        : "Choose a role here, then its joint in the Hierarchy or on the Stage.";
  if (rig) ringed();
  weights.chosen();
}

function send(handler, values) {
  document.body.dataset.ready = "false";
  return htmx.ajax("POST", `?handler=${handler}`, { values, swap: "none", source: main });
}

function assign(role, joint) {
  armed = chosen = null;
  return send("Role", { role, joint });
}

function pickJoint(name) {
  if (armed && !locked()) assign(armed, name);
  else {
    chosen = chosen === name ? null : name;
    mark();
    document.querySelector(`.e-hierarchy [data-joint="${CSS.escape(name)}"]`)?.scrollIntoView({ block: "nearest", inline: "nearest" });
  }
}

function pickRole(role) {
  if (locked()) return;
  if (chosen) assign(role, chosen);
  else {
    armed = armed === role ? null : role;
    mark();
  }
}

document.addEventListener("click", (e) => {
  const knot = e.target.closest(".e-steps [data-knot]");
  if (!knot || knot.dataset.knot === "Bring in") return;
  e.preventDefault();
  weigh(knot.dataset.knot === "Weights");
});
main.addEventListener("click", (e) => {
  const knob = e.target.closest(".e-rolefig .e-knob"),
    knot = e.target.closest(".e-hierarchy .e-knot");
  if (knob) pickRole(knob.dataset.role);
  if (knot) pickJoint(knot.dataset.joint);
});
main.addEventListener("keydown", (e) => {
  if ((e.key === "Enter" || e.key === " ") && e.target.matches?.(".e-knob, .e-knot")) {
    e.preventDefault();
    e.target.dispatchEvent(new MouseEvent("click", { bubbles: true }));
  }
});
main.addEventListener("input", (e) => {
  if (e.target.id !== "find-joint") return;
  const wish = e.target.value.trim().toLowerCase();
  let first = null;
  for (const k of document.querySelectorAll(".e-hierarchy .e-knot")) {
    const hit = wish && `${k.dataset.joint} ${k.dataset.role ?? ""}`.toLowerCase().includes(wish);
    k.classList.toggle("found", !!hit);
    if (hit) first ??= k;
  }
  document.querySelector(".e-hierarchy svg").classList.toggle("finding", !!wish);
  first?.scrollIntoView({ block: "nearest", inline: "center" });
});
stage.canvas.addEventListener("click", (e) => {
  const best = nearest(e);
  if (best >= 0 && !placing.on && !weights.took()) pickJoint(rig.joints[best].name);
});
document.getElementById("show").addEventListener("click", (e) => {
  const b = e.target.closest("[data-show]");
  if (!b) return;
  show = b.dataset.show;
  localStorage.setItem("prepare:show", show);
  shown();
});
document.getElementById("looks").addEventListener("click", (e) => {
  const b = e.target.closest("[data-view]");
  if (b) face([[0, 0.1, 1], [1, 0.1, 0.01], [0, 1, 0.01]][Number(b.dataset.view) - 1]);
});
onKey("Y", () => document.querySelector("[data-remedy], [data-unit]")?.click());
onKey("M", () => document.getElementById("mirror-l")?.click());
onKey("U", () => document.getElementById(weights.on ? "unpaint" : "back")?.click());
onKey("W", () => weigh(!weights.on));
onKey("Escape", () => {
  armed = chosen = null;
  mark();
});
onKey("Delete", () => {
  const role = armed ?? document.querySelector(`.e-hierarchy [data-joint="${CSS.escape(chosen ?? "")}"]`)?.dataset.role;
  if (role && !locked()) assign(role, "");
});
document.addEventListener("e-changed", () => anew());
document.addEventListener("htmx:afterSettle", async () => {
  await load();
  if (weights.on !== (document.querySelector(".e-steps .shown")?.dataset.knot === "Weights")) weigh(weights.on);
  mark();
  document.body.dataset.ready = "true";
});
document.addEventListener("e-theme", () => {
  if (rig) {
    lay(now, "at");
    lay(before, "came", stage.palette["text-3"] ?? stage.palette.text);
  }
});
stage.addEventListener("drawn", drawRings);
await load().catch(() => {
  document.getElementById("said").textContent = "The figure could not be loaded.";
});
mark();
document.body.dataset.ready = "true";
