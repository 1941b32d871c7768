import { onKey, toast } from "../app.js";
import { connection, onStatus, begin, command } from "./connection.js";
import { LiveView } from "./liveview.js";
import { Rack } from "./rack.js";
import { showChecks } from "./checks.js";
import { WitnessPicture } from "./witness.js";

const $ = (id) => document.getElementById(id);
const main = $("main");
const view = new LiveView(document.querySelector(".e-stage"));
const stage = view.stage;
stage.camera.position.set(3.9, 2.9, 5.6);
stage.controls.target.set(-0.1, 0.95, -0.2);
stage.controls.update();
window.eidolon = { stage, view };
const rack = new Rack(document.querySelector(".e-devices"));
const witness = new WitnessPicture($("witness"));
let state = "Ready",
  said = "";
main.dataset.meta = $("head-meta").textContent;
onStatus(show);

function show(s) {
  state = s.state;
  const v = s.view,
    of = v.bodies.reduce((n, b) => n + (b.found && !b.bySuit ? b.of : 0), 0),
    seen = v.bodies.reduce((n, b) => n + b.seen, 0);
  $("live-count").textContent = v.points;
  $("live-who").textContent = [
    "markers",
    v.bodies.filter((b) => b.found).map((b) => b.name),
    v.props.filter((p) => p.trusted).map((p) => p.name.toLowerCase()),
  ]
    .flat()
    .join(", ")
    .replace("markers, ", "markers of ");
  $("m-seen").textContent = of ? seen : v.points;
  $("m-of").textContent = of ? `/${of}` : "";
  $("m-noise").textContent = v.noisePixels ? v.noisePixels.toFixed(2) : "–";
  $("m-behind").textContent = s.behindMilliseconds.toFixed(1);
  $("m-behind").title = `99 of 100 frames within ${s.behindMost.toFixed(1)} ms; ${s.leftOut} frames left out of the live view`;
  $("m-write").textContent = s.writeMegabytesPerSecond.toFixed(1);
  if (!s.devices.find((d) => d.stream === "ring")?.connected) view.clear(v.bodies.some((b) => b.bySuit));
  $("quiet").hidden = s.devices.some((d) => d.connected);
  rack.show(s.devices);
  witness.show(s.devices);
  view.cameras?.mark(v.cameras);
  showChecks($("checks"), $("check-tally"), brief(s.checks));
  hidden(v, of, seen);
  states(s);
}

// The suit's three holds are one line here; its own page shows them all.
function brief(checks) {
  const holds = checks.filter((c) => c.key.startsWith("suit-")),
    bad = holds.find((c) => c.state === "again");
  if (!holds.length) return checks;
  const good = holds.filter((c) => c.state === "good").length;
  const one = {
    key: "suit",
    name: "Suit held still",
    state: bad ? "again" : good === holds.length ? "good" : "wait",
    value: `${good} of ${holds.length}`,
    reason: bad?.reason ?? "",
  };
  return checks.flatMap((c) => (c === holds[0] ? [one] : c.key.startsWith("suit-") ? [] : [c]));
}

function hidden(v, of, seen) {
  view.later = v.characterMilliseconds;
  $("hidden-tally").textContent = of ? `${of - seen} of ${of}` : "";
  for (const figure of document.querySelectorAll("[data-body]")) {
    const b = v.bodies.find((x) => x.name === figure.dataset.body);
    figure.hidden = !b;
    if (!b) continue;
    figure.querySelector("[data-seen]").textContent = b.bySuit ? "by the suit" : b.found ? `${b.seen}/${b.of}` : "not found";
    figure.querySelector("[data-words]").textContent = b.bySuit
      ? "no marker is seen"
      : !b.found
      ? "looking …"
      : b.hidden.length === 0
        ? "all seen"
        : b.hidden.slice(0, 3).join(", ") + (b.hidden.length > 3 ? ` and ${b.hidden.length - 3}` : "");
    for (const part of figure.querySelectorAll("[data-part]")) part.classList.toggle("warm", b.hiddenParts.includes(part.dataset.part));
  }
}

function states(s) {
  // What the recorder says of itself, e.g. that a take had no frames.
  if (s.said !== said) $("record-error").textContent = said = s.said;
  [...$("states").children].forEach((c) => c.classList.toggle("on", c.textContent === state));
  const busy = state === "Recording" || state === "Pre-roll";
  $("record").classList.toggle("on", busy);
  $("record-word").textContent =
    state === "Recording" ? `Stop · ${s.seconds.toFixed(1)} s` : state === "Pre-roll" ? `${Math.ceil(s.seconds)} …` : "Record";
  $("record-hint").textContent =
    state === "Recording"
      ? `${s.kept} of ${s.frames} frames are safe on disk`
      : state === "Pre-roll"
        ? "counting in"
        : "Hold R one second, or click; then a count of three";
  $("head-meta").textContent = state === "Recording" ? `Recording ${s.seconds.toFixed(1)} s` : main.dataset.meta;
  document.querySelector(".e-stage").classList.toggle("rec", state === "Recording");
}

const pressed = (what) => [...document.querySelectorAll(`[data-${what}][aria-pressed=true]`)];
const chosen = () => pressed("performer").map((b) => Number(b.dataset.id));
const props = () => pressed("prop").map((b) => Number(b.dataset.id));

async function toggle() {
  $("record-error").textContent = "";
  if (state === "Recording" || state === "Pre-roll") {
    const taken = await command("Stop");
    if (typeof taken === "string") $("record-error").textContent = taken;
    else if (taken) location.href = `/takes/${taken}/label`;
    return;
  }
  if (chosen().length === 0) {
    $("record-error").textContent = "Choose who performs.";
    return;
  }
  const request = {
    DayId: Number(main.dataset.day),
    SetUp: $("setup").value.trim(),
    Number: Number($("number").value) || 0,
    Performers: chosen(),
    Note: $("note").value,
    Props: props(),
    MarkerSet: $("set").value ? Number($("set").value) : null,
  };
  $("record-error").textContent = await command("Record", request);
}

// Every stand-in that is switched off begins to send.
$("start-all")?.addEventListener("click", async () => {
  for (const [stream, row] of rack.rows) if (row.dataset.on !== "yes") rack.say(row, await command("StandIn", stream, true));
});

async function track() {
  const error = await command("Track", chosen(), $("part").value);
  if (error) {
    $("record-error").textContent = error;
    return;
  }
  await view.load();
}

// A character is driven by whoever is pressed on the slate.
for (const select of document.querySelectorAll("[data-plays]")) {
  select.addEventListener("change", async () => {
    const error = await command("Play", Number(select.dataset.plays), Number(select.value));
    $("record-error").textContent = error;
    if (!error) await view.load();
  });
}

async function perform() {
  if (!$("scene")) return;
  const who = pressed("performer")[0]?.dataset.performer ?? "";
  $("record-error").textContent = await command("Perform", $("scene").value, who);
}

$("record").addEventListener("click", toggle);
const head = () => {
  $("head-number").textContent = String($("number").value).padStart(2, "0");
  $("head-take").firstChild.textContent = $("setup").value;
};
const count = (by) => {
  $("number").value = Math.max(1, (Number($("number").value) || 1) + by);
  head();
};
$("less").addEventListener("click", () => count(-1));
$("more").addEventListener("click", () => count(1));
$("setup").addEventListener("input", head);
$("number").addEventListener("input", head);
$("scene")?.addEventListener("change", perform);
$("part").addEventListener("change", track);
for (const chip of document.querySelectorAll("#performers [data-performer], #props [data-prop]")) {
  chip.addEventListener("click", () => {
    const on = chip.getAttribute("aria-pressed") !== "true";
    chip.setAttribute("aria-pressed", on);
    chip.classList.toggle("on", on);
    if (chip.dataset.performer) {
      for (const own of document.querySelectorAll(`[data-plays="${chip.dataset.id}"], [data-plays-of="${chip.dataset.id}"]`)) own.hidden = !on;
      track();
      perform();
    }
  });
}
const smoothing = () => {
  $("smooth-word").textContent = `${$("smooth").value} ms later`;
  connection.invoke("Smoothing", Number($("smooth").value));
};
$("smooth").addEventListener("input", smoothing);
for (const b of document.querySelectorAll("[data-show]")) {
  b.addEventListener("click", () => {
    document.querySelectorAll("[data-show]").forEach((x) => {
      x.classList.toggle("on", x === b);
      x.setAttribute("aria-pressed", x === b);
    });
    view.show(b.dataset.show);
  });
}
$("show-cover").addEventListener("change", (e) => view.cameras?.setCover(e.target.checked));
$("show-rays").addEventListener("change", (e) => {
  view.rays = e.target.checked;
});

async function circle(item) {
  const token = document.querySelector('meta[name="antiforgery"]').content;
  const answer = await fetch(`/record?handler=Circle&take=${item.dataset.take}`, { method: "POST", headers: { "X-Antiforgery": token } });
  if (!answer.ok) return;
  const { circled } = await answer.json();
  item.querySelector(".e-ring").className = `e-ring ${circled ? "on" : "maybe"}`;
  item.querySelector("[data-circle]").setAttribute("aria-pressed", circled);
  toast(`${item.querySelector("a").textContent} ${circled ? "is circled" : "is not circled any more"}`, () => circle(item));
}
for (const item of document.querySelectorAll("#kept [data-take]"))
  item.querySelector("[data-circle]").addEventListener("click", () => circle(item));

let holding = 0;
document.addEventListener("keydown", (e) => {
  if (e.key.toLowerCase() === "r" && !e.repeat && !e.target.closest("input, textarea, select")) {
    $("record").classList.add("holding");
    holding = setTimeout(toggle, 1000);
  }
});
document.addEventListener("keyup", (e) => {
  if (e.key.toLowerCase() === "r") {
    clearTimeout(holding);
    $("record").classList.remove("holding");
  }
});
const follow = (on) => {
  stage.setFollow(on);
  $("follow").classList.toggle("on", on);
  $("stay").classList.toggle("on", !on);
  $("follow").setAttribute("aria-pressed", on);
  $("stay").setAttribute("aria-pressed", !on);
};
$("follow").addEventListener("click", () => follow(true));
$("stay").addEventListener("click", () => follow(false));
onKey("F", () => follow(!stage.follow));
onKey("V", () => stage.view(1));
onKey("O", () => {
  const last = document.querySelector("#kept [data-take]");
  if (last) circle(last);
});
follow(stage.follow);
await begin(show);
await perform();
await track();
document.body.dataset.ready = "true";
