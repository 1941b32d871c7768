import { Clock } from "./stage/clock.js";
import { Stage } from "./stage/stage.js";
import { Lanes } from "./lanes/lanes.js";
import { setPieces } from "./stage/setpieces.js";
import { onKey } from "./app.js";

const main = document.getElementById("main");
const floats = async (url) => new Float32Array(await (await fetch(url)).arrayBuffer());

// What is chosen is compared at once. How they are laid goes along only where a person said it: what fits two solves may not fit two others.
document.getElementById("choose")?.addEventListener("change", (e) => {
  const lay = document.getElementById("lay");
  lay.disabled = e.target !== lay && lay.dataset.said === "";
  e.currentTarget.requestSubmit();
  lay.disabled = false;
});

if (main.dataset.api) {
  const wish = new URLSearchParams(new FormData(document.getElementById("choose")));
  const about = await (await fetch(`${main.dataset.api}?${wish}`)).json();
  const clock = new Clock(about.frameCount, about.frameRate, main.dataset.key);
  const stages = ["stage-a", "stage-b"].map((id) => new Stage(document.getElementById(id), clock));
  const lanes = new Lanes(document.getElementById("lanes"), clock, about.lanes);
  window.eidolon = { clock, stages, lanes, about };
  const samples = await Promise.all(about.figures.map((f) => floats(f.samples)));
  await Promise.all(stages.map((s, i) => s.addFigure(about.figures[i], samples[i])));
  const ghost = await stages[1].addFigure(about.figures[0], samples[0]);
  ghost.group.visible = false;
  for (const s of stages) {
    s.addSet(setPieces(about.set, s.palette));
    s.figures[0].mode("both");
    s.follow = false;
    s.frameAll(4.2);
  }

  // One view: whoever is turned, the other turns along.
  let turning = false;
  stages.forEach((s, i) =>
    s.controls.addEventListener("change", () => {
      if (turning) return;
      turning = true;
      const other = stages[1 - i];
      other.camera.position.copy(s.camera.position);
      other.controls.target.copy(s.controls.target);
      other.controls.update();
      other.dirty = true;
      turning = false;
    }),
  );
  clock.addEventListener("frame", () => stages.forEach((s) => s.bringIntoView()));

  const over = (on) => {
    ghost.group.visible = on;
    ghost.mode("ghost");
    main.classList.toggle("one-stage", on);
    document.getElementById("over").classList.toggle("on", on);
    document.getElementById("over").setAttribute("aria-pressed", on);
    document.getElementById("beside").classList.toggle("on", !on);
    document.getElementById("beside").setAttribute("aria-pressed", !on);
    stages[1].dirty = true;
  };
  document.getElementById("over").addEventListener("click", () => over(true));
  document.getElementById("beside").addEventListener("click", () => over(false));
  onKey("E", () => over(!ghost.group.visible));
  onKey("G", () => {
    clock.pause();
    clock.set(about.worstFrame);
  });
  onKey(" ", () => clock.toggle());
  onKey("ArrowLeft", (e) => clock.step(e.shiftKey ? -10 : -1));
  onKey("ArrowRight", (e) => clock.step(e.shiftKey ? 10 : 1));
  document.getElementById("speed").addEventListener("change", (e) => {
    clock.speed = Number(e.target.value);
  });
  const joints = document.getElementById("joints");
  const go = (e) => {
    const row = e.target.closest("[data-frame]");
    if (!row) return;
    joints.querySelectorAll("tr").forEach((r) => r.classList.toggle("sel", r === row));
    clock.pause();
    clock.set(Number(row.dataset.frame));
  };
  joints.addEventListener("click", go);
  joints.addEventListener("keydown", (e) => {
    if (e.key === "Enter") go(e);
  });
}
document.body.dataset.ready = "true";
