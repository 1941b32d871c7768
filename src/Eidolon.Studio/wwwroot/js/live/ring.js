import { onStatus, begin, command, connection } from "./connection.js";
import { LiveView } from "./liveview.js";

const $ = (id) => document.getElementById(id);
const view = new LiveView(document.querySelector(".e-stage"));
view.stage.camera.position.set(4.6, 5.4, 7.2);
view.stage.controls.target.set(0, 0.6, 0);
view.stage.controls.update();
window.eidolon = { stage: view.stage, view };
let last = "";
onStatus(show);

function show(s) {
  const r = s.ring;
  const working = r.state === "Waving" || r.state === "Working out" || r.state === "Floor";
  $("wave").disabled = working;
  $("wave").textContent = r.state === "Waving" ? `Waving · ${r.seconds.toFixed(0)} s` : "Wave the wand";
  $("enough").disabled = r.state !== "Waving" || r.cameras.some((c) => c.sightings < 60);
  $("enough").title = $("enough").disabled ? "Every camera wants 60 pictures of the wand first" : "";
  $("ground").disabled = working;
  $("stop").disabled = !working;
  document
    .querySelectorAll("[data-part]")
    .forEach((li) => li.classList.toggle("here", li.dataset.part === { Waving: "wave", "Working out": "work", Floor: "ground" }[r.state]));
  const said =
    r.state === "Waving"
      ? `${Math.min(...r.cameras.map((c) => c.sightings))} pictures in the camera that saw it least`
      : r.state === "Working out"
        ? "Working out the cameras …"
        : r.state === "Floor"
          ? "Looking at the ground frame …"
          : r.message;
  if ($("said").textContent !== said) {
    $("said").textContent = said;
    $("said").className = r.state === "Again" ? "e-note-must" : "small mid";
  }
  $("bar").style.setProperty(
    "--v",
    r.state === "Waving" ? (r.seconds / r.longest) * 100 : r.state === "Working out" ? r.progress * 100 : r.state === "Done" ? 100 : 0,
  );
  $("seconds").textContent = r.state === "Waving" ? `${r.seconds.toFixed(1)} s` : "";
  for (const c of r.cameras) draw(c);
  s.view.cameras.forEach((c) => {
    const row = document.querySelector(`#cameras [data-camera="${c.name}"]`);
    row.querySelector("[data-shift]").textContent = c.knocked ? `${c.shift.toFixed(1)} px` : "–";
    row.querySelector("[data-used]").textContent = c.residual ? `${(c.used * 100).toFixed(0)} %` : "–";
    row.classList.toggle("must", c.knocked);
  });
  view.cameras?.mark(s.view.cameras);
  if (r.state === "Done" && last !== "" && last !== "Done") view.load().then(inUse);
  last = r.state;
}

async function inUse() {
  const page = new DOMParser().parseFromString(await (await fetch("/record/ring")).text(), "text/html");
  $("in-use").replaceWith(page.getElementById("in-use"));
  page.querySelectorAll("#cameras tr").forEach((row) => {
    document.querySelector(`#cameras [data-camera="${row.dataset.camera}"]`).children[1].textContent = row.children[1].textContent;
  });
}

let pictures = [];
setInterval(async () => {
  if (!document.hidden) pictures = await (await fetch("/api/live/pictures")).json();
}, 250);

function draw(c) {
  const figure = document.querySelector(`.e-pictures [data-camera="${c.name}"]`),
    canvas = figure.querySelector("canvas"),
    g = canvas.getContext("2d"),
    style = getComputedStyle(document.documentElement);
  const w = canvas.width / 8,
    h = canvas.height / 6;
  g.fillStyle = style.getPropertyValue("--e-raised");
  g.fillRect(0, 0, canvas.width, canvas.height);
  g.fillStyle = style.getPropertyValue("--e-selected");
  c.fields.forEach((on, i) => {
    if (on) g.fillRect((i % 8) * w + 0.5, Math.floor(i / 8) * h + 0.5, w - 1, h - 1);
  });
  const seen = pictures[Number(c.name) - 1];
  g.fillStyle = style.getPropertyValue("--e-text");
  for (let k = 0; seen && k < seen.u.length; k++)
    g.fillRect((seen.u[k] / 2048) * canvas.width - 1, (seen.v[k] / 1536) * canvas.height - 1, 2, 2);
  figure.querySelector("[data-share]").textContent = `${(c.coverage * 100).toFixed(0)} %`;
}

const tell = (text) => {
  if (text) {
    $("said").textContent = text;
    $("said").className = "e-note-must";
  }
};
$("wave").addEventListener("click", async () => tell(await command("BeginWave")));
$("enough").addEventListener("click", () => command("EndWave"));
$("stop").addEventListener("click", () => command("StopPreparation"));
$("ground").addEventListener("click", async () => tell(await command("SetGround")));
document
  .querySelectorAll("[data-break]")
  .forEach((b) => b.addEventListener("click", async () => tell(await command("Break", "ring", b.dataset.break))));
$("mend").addEventListener("click", () => connection.invoke("Mend", "ring"));
await begin(show);
await view.load();
view.show("markers");
document.body.dataset.ready = "true";
