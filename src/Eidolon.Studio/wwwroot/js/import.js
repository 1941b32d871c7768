import { Stage } from "./stage/stage.js";
import { Clock } from "./stage/clock.js";
import { FrameSamples } from "./stage/samples.js";

const $ = (id) => document.getElementById(id);
const file = document.querySelector("#correct input[name=id]")?.value;
const stageElement = document.querySelector(".e-stage");
let stage;
if (file) {
  const about = await (await fetch(`/api/import/${file}`)).json();
  const clock = new Clock(about.frames, about.rate);
  stage = new Stage(stageElement, clock);
  const side = (n) => (n.endsWith("L") || /left/i.test(n) ? "L" : n.endsWith("R") || /right/i.test(n) ? "R" : "C");
  const data = new Float32Array(await (await fetch(`/api/import/${file}/points`)).arrayBuffer());
  if (about.names.length) {
    stage.setMarkers(
      about.names.map((name) => ({ name, side: side(name), named: true })),
      about.links.map(([a, b]) => [a, b, length(data, a, b)]),
      new FrameSamples(data, about.names.length),
    );
    stage.frameAll(6);
    clock.play?.();
  } else $("play").hidden = true;
  $("play").addEventListener("click", () => {
    clock.toggle();
    $("play").textContent = clock.playing ? "Pause" : "Play";
    $("play").setAttribute("aria-pressed", clock.playing);
  });
  window.eidolon = { stage, clock };
} else {
  stage = new Stage(stageElement, null);
  $("play").hidden = true;
}

function length(d, a, b) {
  return Math.hypot(d[a * 3] - d[b * 3], d[a * 3 + 1] - d[b * 3 + 1], d[a * 3 + 2] - d[b * 3 + 2]);
}

// Dropping anywhere on the page is the same as choosing files.
document.addEventListener("dragover", (e) => {
  e.preventDefault();
  $("drop").classList.add("over");
});
document.addEventListener("dragleave", () => $("drop").classList.remove("over"));
document.addEventListener("drop", (e) => {
  e.preventDefault();
  if (!e.dataTransfer.files.length) return;
  $("files").files = e.dataTransfer.files;
  $("drop").submit();
});
document.body.dataset.ready = "true";
