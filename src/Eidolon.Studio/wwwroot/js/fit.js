import { onKey } from "./app.js";
import { Stage } from "./stage/stage.js";
import * as THREE from "three";

// A body among its markers; rings on its joints are dragged. The server says where everything is and how well it fits.
const main = document.getElementById("main"),
  stage = new Stage(document.querySelector(".e-stage"), null),
  grip = 18;
let state = null,
  markers = null,
  look = 0,
  chosen = null,
  drag = null,
  asking = null;
window.eidolon = { stage, at: (role) => screenOf(role), state: () => state, busy: () => !!asking };

const dots = new THREE.Points(
  new THREE.BufferGeometry(),
  new THREE.PointsMaterial({ size: 7, sizeAttenuation: false, map: disc(), transparent: true, alphaTest: 0.4, toneMapped: false }),
);
const bones = new THREE.LineSegments(
  new THREE.BufferGeometry(),
  new THREE.LineBasicMaterial({ vertexColors: true, depthTest: false, transparent: true, toneMapped: false }),
);
dots.frustumCulled = bones.frustumCulled = false;
const rings = new Map();
stage.content.add(dots, bones);
stage.centre = (out = new THREE.Vector3()) => middle(out);

// A round dot for a point.
function disc() {
  const canvas = document.createElement("canvas");
  canvas.width = canvas.height = 32;
  const pen = canvas.getContext("2d");
  pen.fillStyle = "#fff";
  pen.arc(16, 16, 15, 0, Math.PI * 2);
  pen.fill();
  return new THREE.CanvasTexture(canvas);
}

// The camera stays with the markers, which no drag moves: following the body would run away from the pointer.
function middle(out) {
  if (!state || !markers) return out.set(0, 0.9, 0);
  out.set(0, 0, 0);
  let seen = 0;
  const end = (look + 1) * state.markers * 3;
  for (let k = look * state.markers * 3; k < end; k += 3) {
    if (Number.isNaN(markers[k])) continue;
    out.x += markers[k];
    out.y += markers[k + 1];
    out.z += markers[k + 2];
    seen++;
  }
  return seen ? out.divideScalar(seen) : out.set(0, 0.9, 0);
}

function place(joint, out) {
  const at = (look * state.joints.length + joint) * 3;
  return out.set(state.places[at], state.places[at + 1], state.places[at + 2]);
}

function screenOf(role) {
  // Before the first picture is drawn the camera does not know yet where it was put.
  stage.camera.updateMatrixWorld();
  const j = state.joints.findIndex((x) => x.role === role),
    p = place(j, new THREE.Vector3()).project(stage.camera),
    box = stage.canvas.getBoundingClientRect();
  return [box.left + ((p.x + 1) / 2) * box.width, box.top + ((1 - p.y) / 2) * box.height];
}

function draw() {
  const p = stage.palette,
    v = new THREE.Vector3(),
    pairs = state.joints.flatMap((j, i) => (j.parent >= 0 ? [[j.parent, i]] : [])),
    pos = new Float32Array(pairs.length * 6),
    col = new Float32Array(pairs.length * 6);
  pairs.forEach(([a, b], k) => {
    pos.set(place(a, v).toArray(), k * 6);
    pos.set(place(b, v).toArray(), k * 6 + 3);
    const c = p[state.joints[b].side];
    col.set([c.r, c.g, c.b, c.r, c.g, c.b], k * 6);
  });
  bones.geometry.setAttribute("position", new THREE.BufferAttribute(pos, 3));
  bones.geometry.setAttribute("color", new THREE.BufferAttribute(col, 3));
  dots.geometry.setAttribute("position", new THREE.BufferAttribute(markers.slice(look * state.markers * 3, (look + 1) * state.markers * 3), 3));
  dots.material.color.copy(p.text);
  state.joints.forEach((j) => {
    let ring = rings.get(j.role);
    if (!ring) {
      ring = document.createElement("button");
      ring.type = "button";
      ring.className = "e-grip";
      ring.dataset.role = j.role;
      ring.tabIndex = -1;
      stage.labels.append(ring);
      rings.set(j.role, ring);
    }
    ring.className = `e-grip ${j.side.toLowerCase()}${chosen === j.role ? " sel" : ""}`;
  });
  drawRings();
  document.getElementById("frame").textContent = state.frames[look];
  stage.dirty = true;
}

// Rings lie over the Stage: they follow whenever it is turned.
function drawRings() {
  stage.camera.updateMatrixWorld();
  const v = new THREE.Vector3();
  state.joints.forEach((j, i) => {
    place(i, v).project(stage.camera);
    const [x, y] = [((v.x + 1) / 2) * stage.element.clientWidth, ((1 - v.y) / 2) * stage.element.clientHeight];
    rings.get(j.role).style.setProperty("transform", `translate(${x}px, ${y}px) translate(-50%, -50%)`);
  });
}

const words = (role) => role.replace(/([LR])$/, "").replace(/([a-z])([A-Z])/g, "$1 $2").toLowerCase();

function row(cells, changed) {
  const tr = document.createElement("tr");
  cells.forEach((c, i) => {
    const td = document.createElement("td");
    td.textContent = c ?? "";
    if (i) td.className = "n r" + (changed ? " acc" : "");
    tr.append(td);
  });
  return tr;
}

function tell() {
  document.getElementById("mean").textContent = state.meanMillimetres.toFixed(2);
  document.getElementById("was").textContent = state.wasMillimetres.toFixed(2);
  const better = state.wasMillimetres - state.meanMillimetres;
  document.getElementById("verdict").textContent = !state.moves.length
    ? "As it was measured."
    : Math.abs(better) < 0.01
      ? "The markers fit as well as before."
      : better > 0
        ? `The markers fit better by ${better.toFixed(2)} mm.`
        : `The markers fit worse by ${(-better).toFixed(2)} mm.`;
  document.getElementById("bones").replaceChildren(...state.bones.map((b) => row([b.bone, b.left, b.right], b.changed)));
  document.getElementById("worst").replaceChildren(
    ...state.worst.map((w) => {
      const div = document.createElement("div");
      div.className = "row-x e-res";
      const name = document.createElement("span");
      name.className = "grow cut";
      name.textContent = w.marker;
      const n = document.createElement("span");
      n.className = "n";
      n.textContent = `${w.millimetres.toFixed(1)} mm`;
      div.append(name, n);
      return div;
    }),
  );
  document.getElementById("said").replaceChildren(
    ...state.said.map((t) => {
      const p = document.createElement("p");
      p.className = "e-note-must";
      p.textContent = t;
      return p;
    }),
  );
  document.getElementById("moves").value = JSON.stringify(state.moves);
  document.querySelector("#keep .btn-primary").disabled = document.getElementById("back").disabled = !state.moves.length;
  draw();
}

// One question at a time: while one is answered only the last wish waits.
let wish = null;
async function ask(moves, pull) {
  wish = { moves, pull };
  if (asking) return asking;
  asking = (async () => {
    while (wish) {
      const now = wish;
      wish = null;
      const query = new URLSearchParams({ moves: JSON.stringify(now.moves) });
      if (now.pull) query.set("drag", JSON.stringify(now.pull));
      const answer = await fetch(`${main.dataset.api}?${query}`);
      if (!answer.ok) {
        document.getElementById("verdict").textContent = (await answer.text()) || "The server did not answer.";
        continue;
      }
      state = await answer.json();
      tell();
    }
    asking = null;
  })();
  return asking;
}

function choose(role) {
  chosen = role;
  document.getElementById("chosen").textContent = role
    ? `${words(role)}${/[LR]$/.test(role) ? (role.endsWith("L") ? ", left" : ", right") : ""} chosen: arrows move it by 2 mm, with Shift by 10.`
    : "No joint chosen. Click a ring; arrows move it by 2 mm, with Shift by 10.";
  draw();
}

const alike = document.getElementById("alike");
const pullOf = (role, v) => ({ role, look, x: v.x, y: v.y, z: v.z, alike: alike.checked });

function nearest(x, y) {
  let best = null,
    least = grip;
  for (const j of state.joints) {
    const [a, b] = screenOf(j.role),
      d = Math.hypot(a - x, b - y);
    if (d < least) [best, least] = [j.role, d];
  }
  return best;
}

if (main.dataset.api) {
  stage.controls.minDistance = 0.3;
  stage.canvas.addEventListener(
    "pointerdown",
    (e) => {
      const role = state && e.button === 0 ? nearest(e.clientX, e.clientY) : null;
      if (!role) return;
      choose(role);
      stage.controls.enabled = false;
      stage.canvas.setPointerCapture(e.pointerId);
      const from = place(
        state.joints.findIndex((j) => j.role === role),
        new THREE.Vector3(),
      );
      drag = { role, from, moves: state.moves, moved: false };
    },
    { capture: true },
  );
  stage.canvas.addEventListener("pointermove", (e) => {
    if (!drag) return;
    const box = stage.canvas.getBoundingClientRect(),
      to = drag.from.clone().project(stage.camera);
    to.x = ((e.clientX - box.left) / box.width) * 2 - 1;
    to.y = 1 - ((e.clientY - box.top) / box.height) * 2;
    to.unproject(stage.camera);
    drag.moved = true;
    ask(drag.moves, pullOf(drag.role, to.sub(drag.from)));
  });
  addEventListener("pointerup", () => {
    drag = null;
    stage.controls.enabled = true;
  });
  const nudge = (x, y) => (e) => {
    if (!chosen || asking) return;
    const by = e.shiftKey ? 0.01 : 0.002,
      v = new THREE.Vector3(x * by, y * by, 0).applyQuaternion(stage.camera.quaternion);
    ask(state.moves, pullOf(chosen, v));
  };
  onKey("ArrowLeft", nudge(-1, 0));
  onKey("ArrowRight", nudge(1, 0));
  onKey("ArrowUp", nudge(0, 1));
  onKey("ArrowDown", nudge(0, -1));
  const back = () => {
    if (state.moves.length && !asking) ask(state.moves.slice(0, -1));
  };
  onKey("U", back);
  document.getElementById("back").addEventListener("click", back);
  document.getElementById("look").addEventListener("input", (e) => {
    look = Number(e.target.value);
    draw();
  });
  document.getElementById("looks").addEventListener("click", (e) => {
    const b = e.target.closest("[data-view]");
    if (b) stage.view(Number(b.dataset.view));
  });
  stage.addEventListener("drawn", () => state && drawRings());
  markers = new Float32Array(await (await fetch(`${main.dataset.api}/markers`)).arrayBuffer());
  await ask([]);
  stage.view(1);
}
document.body.dataset.ready = "true";
