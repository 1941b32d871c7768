import * as THREE from "three";
import { LiveView } from "./liveview.js";
import { onStatus, begin, command, connection } from "./connection.js";
import { showChecks } from "./checks.js";

const $ = (id) => document.getElementById(id);
const view = new LiveView(document.querySelector(".e-stage"));
const stage = view.stage;
// The room as a plan that stays: spots have their places on its floor.
stage.camera.position.set(0.01, 12.5, 7.6);
stage.controls.target.set(0, 0, 0.3);
stage.follow = false;
stage.controls.update();
window.eidolon = { stage };
const spots = new THREE.Group();
stage.scene.add(spots);
onStatus((s) =>
  showChecks(
    $("checks"),
    null,
    s.checks.filter((c) => c.key === "field" || c.key.startsWith("suit")),
  ),
);

async function field() {
  if (document.hidden) return;
  const f = await (await fetch("/api/live/field")).json();
  $("earth").textContent = f.earth.toFixed(0);
  $("field").textContent = f.trace.length ? f.trace.at(-1).toFixed(1) : "–";
  $("spots").textContent = f.spots.length;
  draw(f);
  spots.clear();
  for (const [x, z, b] of f.spots) {
    const off = Math.min(1, Math.abs(b - f.earth) / 12);
    const ring = new THREE.Mesh(
      new THREE.RingGeometry(0.08, 0.11 + 0.1 * off, 20).rotateX(-Math.PI / 2),
      new THREE.MeshBasicMaterial({ color: stage.palette.look, transparent: true, opacity: 0.4 + 0.6 * off, side: THREE.DoubleSide }),
    );
    ring.position.set(x, 0.01, z);
    spots.add(ring);
  }
  stage.dirty = true;
}

function draw(f) {
  const c = $("trace"),
    w = c.clientWidth,
    h = c.clientHeight,
    style = getComputedStyle(document.documentElement);
  c.width = w;
  c.height = h;
  const g = c.getContext("2d"),
    y = (v) => h - 8 - ((v - f.earth + 12) / 24) * (h - 16);
  g.strokeStyle = style.getPropertyValue("--e-edge");
  g.setLineDash([4, 4]);
  g.beginPath();
  g.moveTo(0, y(f.earth));
  g.lineTo(w, y(f.earth));
  g.stroke();
  g.setLineDash([]);
  g.strokeStyle = style.getPropertyValue("--e-text");
  g.lineWidth = 1.5;
  g.beginPath();
  f.trace.forEach((v, i) => g.lineTo((i / 119) * w, y(Math.max(f.earth - 12, Math.min(f.earth + 12, v)))));
  g.stroke();
}

document.querySelectorAll("[data-hold]").forEach((b) => b.addEventListener("click", () => connection.invoke("Hold", b.dataset.hold)));
document.querySelectorAll("[data-break]").forEach((b) => b.addEventListener("click", () => command("Break", "suit", b.dataset.break)));
$("mend").addEventListener("click", () => connection.invoke("Mend", "suit"));
await begin((s) =>
  showChecks(
    $("checks"),
    null,
    s.checks.filter((c) => c.key === "field" || c.key.startsWith("suit")),
  ),
);
// Somebody must be found for the spots to have a place; who wears the suit begins with its poses.
const { performer, wearer } = $("main").dataset;
if (wearer) {
  await command("Perform", "suit-patrol", wearer);
  await command("Track", [Number(performer)], "Whole");
}
await view.load();
view.show("figures");
view.cameras.remove();
setInterval(field, 300);
await field();
document.body.dataset.ready = "true";
