import { Clock } from "./stage/clock.js";
import { Stage } from "./stage/stage.js";
import { FrameSamples } from "./stage/samples.js";
import { FilmInStep } from "./stage/film.js";
import { onKey } from "./app.js";

const $ = (id) => document.getElementById(id);
const main = $("main"),
  take = main.dataset.take,
  film = $("film");
const scene = await (await fetch(`/api/takes/${take}/scene?step=solve`)).json();
const clock = new Clock(Number(main.dataset.frames), Number(main.dataset.rate), `video:${take}`);
const stage = new Stage($("stage"), clock);
const floats = async (url) => new Float32Array(await (await fetch(url)).arrayBuffer());
if (scene.markers.length)
  stage.setMarkers(scene.markers, scene.links, new FrameSamples(await floats(`/api/takes/${take}/markers`), scene.markers.length));
for (const f of scene.figures.filter((f) => f.kind === "performer"))
  (await stage.addFigure(f, await floats(f.samples))).mode("body");
stage.frameAll(4.4);
window.eidolon = { stage, clock, film };

const offset = () => Number($("offset")?.value) || 0;
const inStep =
  film &&
  new FilmInStep(film, clock, () => ({
    offset: offset(),
    speed: Number($("speed")?.value) || 1,
    from: Number(film.dataset.from),
    to: Number(film.dataset.to),
  }));
function told() {
  $("frame").textContent = clock.frame;
  $("scrub").value = clock.frame;
  if (film) $("film-time").textContent = `${inStep.time.toFixed(2)} s`;
}
// By itself the film follows the clock; here it lies otherwise beside the take.
function follow() {
  inStep?.follow();
  told();
}
clock.addEventListener("frame", told);
clock.addEventListener("state", () => {
  $("play").textContent = clock.playing ? "Pause" : "Play";
  $("play").setAttribute("aria-pressed", clock.playing);
});
$("play").addEventListener("click", () => clock.toggle());
$("scrub").addEventListener("input", (e) => {
  clock.pause();
  clock.set(Number(e.target.value));
});
$("sound").addEventListener("change", (e) => {
  if (film) film.muted = !e.target.checked;
});
onKey(" ", () => clock.toggle());
onKey("ArrowLeft", () => clock.step(-1));
onKey("ArrowRight", () => clock.step(1));
$("offset")?.addEventListener("input", follow);
document.querySelectorAll("[data-nudge]").forEach((b) =>
  b.addEventListener("click", () => {
    $("offset").value = (offset() + Number(b.dataset.nudge)).toFixed(3);
    follow();
  }),
);

// Points are clicked in the film; the studio finds the camera, the Stage then looks through it with the film under the figure.
const token = document.querySelector('meta[name="antiforgery"]').content;
const post = async (handler, body) =>
  (
    await fetch(`?handler=${handler}`, {
      method: "POST",
      headers: { "Content-Type": "application/json", "X-Antiforgery": token },
      body: JSON.stringify(body),
    })
  ).json();
const clicks = [];
let camera = JSON.parse($("camera")?.textContent ?? "null");
function showClicks() {
  $("clicks").replaceChildren(
    ...clicks
      .filter((c) => c.Frame === clock.frame)
      .map((c) => {
        const d = document.createElement("span");
        d.style.setProperty("left", `${(100 * c.U) / film.videoWidth}%`);
        d.style.setProperty("top", `${(100 * c.V) / film.videoHeight}%`);
        d.title = c.Name;
        return d;
      }),
  );
  $("click-count").textContent = `${clicks.length} of 6`;
  $("locate").disabled = clicks.length < 6;
}
function useCamera(found) {
  camera = found;
  $("under").disabled = !camera;
  $("under").title = camera ? "" : "Say first where the film was shot from";
  $("camera-rms").textContent = camera ? `${camera.rms.toFixed(1)} px` : "";
}
function under(on) {
  $("under").classList.toggle("on", on);
  $("beside").classList.toggle("on", !on);
  $("under").setAttribute("aria-pressed", on);
  $("beside").setAttribute("aria-pressed", !on);
  (on ? $("stage") : $("film-box")).prepend(film);
  $("clicks").hidden = on;
  stage.lookThrough(on ? camera : null);
  if (!on) stage.frameAll(4.4);
  follow();
}
$("under").addEventListener("click", () => under(true));
$("beside").addEventListener("click", () => under(false));
if (film) {
  useCamera(camera);
  film.addEventListener("click", (e) => {
    const w = film.videoWidth,
      h = film.videoHeight,
      scale = Math.min(film.clientWidth / w, film.clientHeight / h);
    const u = (e.offsetX - (film.clientWidth - w * scale) / 2) / scale,
      v = (e.offsetY - (film.clientHeight - h * scale) / 2) / scale;
    if (clock.playing || u < 0 || v < 0 || u > w || v > h) return;
    const name = $("joint").value,
      at = clicks.findIndex((c) => c.Name === name && c.Frame === clock.frame);
    if (at >= 0) clicks.splice(at, 1);
    clicks.push({ Name: name, Frame: clock.frame, U: u, V: v });
    $("joint").selectedIndex = ($("joint").selectedIndex + 1) % $("joint").length;
    showClicks();
  });
  clock.addEventListener("frame", showClicks);
  $("unclick").addEventListener("click", () => {
    clicks.length = 0;
    showClicks();
  });
  $("locate").addEventListener("click", async () => {
    $("camera-said").textContent = "Looking …";
    const answer = await post("Camera", { Width: film.videoWidth, Height: film.videoHeight, Points: clicks });
    $("camera-said").textContent =
      answer.error ??
      `Found: the clicked points lie ${answer.camera.rms.toFixed(1)} px from the figure.` +
        (answer.camera.rms > 0.01 * film.videoWidth
          ? " That is far: look whether each click is the joint that was chosen, and the offset right."
          : "");
    if (answer.camera) useCamera(answer.camera);
  });
}

// The browser decodes the sound; where the clap is, the studio finds.
$("clap")?.addEventListener("click", async () => {
  $("clap-said").textContent = "Listening …";
  try {
    const audio = new OfflineAudioContext(1, 8000, 8000);
    const sound = await audio.decodeAudioData(await (await fetch(film.src)).arrayBuffer());
    const samples = sound.getChannelData(0),
      rate = 200,
      step = Math.floor(sound.sampleRate / rate),
      values = [];
    for (let i = 0; i + step <= samples.length; i += step) {
      let sum = 0;
      for (let k = 0; k < step; k++) sum += samples[i + k] * samples[i + k];
      values.push(Math.sqrt(sum / step));
    }
    const answer = await post("Clap", { values, rate: sound.sampleRate / step });
    if (answer.error) {
      $("clap-said").textContent = answer.error;
      return;
    }
    $("offset").value = answer.offset;
    $("clap-said").textContent =
      `Heard at ${answer.sound.toFixed(2)} s, the hands meet at ${answer.hands.toFixed(2)} s. Keep it when it looks right.`;
    follow();
  } catch {
    $("clap-said").textContent = "The film has no sound that can be read.";
  }
});
follow();
document.body.dataset.ready = "true";
