import { Clock } from "./stage/clock.js";
import { Stage } from "./stage/stage.js";
import { Lanes } from "./lanes/lanes.js";
import { Curves } from "./lanes/curves.js";
import { TakeState } from "./take/state.js";
import { Findings } from "./take/findings.js";
import { Labels } from "./take/label.js";
import { LedgerPanel } from "./take/ledger.js";
import { Contacts } from "./take/contacts.js";
import { Smoothing } from "./take/smoothing.js";
import { Films } from "./take/films.js";
import { HoldControls } from "./take/hold.js";
import { joining } from "./take/joining.js";
import { Echoes } from "./take/echoes.js";
import { beside } from "./take/beside.js";
import { listing } from "./take/listing.js";
import { Notes } from "./take/notes.js";
import { reporting } from "./take/report.js";
import { MotionSamples } from "./stage/samples.js";
import { StageProp } from "./stage/props.js";
import { setPieces } from "./stage/setpieces.js";
import { anew, onChanged, onKey, toast } from "./app.js";

const main = document.getElementById("main");
const api = main.dataset.api,
  step = main.dataset.step;
const floats = async (url) => {
  const r = await fetch(url);
  if (!r.ok) throw new Error(url);
  return new Float32Array(await r.arrayBuffer());
};

// A node says whose entry it is; without one it goes to every node of the operation's kind.
export function run(operation, parameters, node) {
  const values = { operation, parameters: JSON.stringify(parameters), seen: state.scene.revision };
  if (node) values.node = node;
  window.htmx.ajax("POST", "?handler=Run", { target: "#job", swap: "innerHTML", values });
}

document.addEventListener("e-run", (e) => run(e.detail.operation, e.detail.parameters, e.detail.node));

const state = new TakeState(api, step);
await state.open();
const clock = new Clock(state.scene.frameCount, state.scene.frameRate, main.dataset.key);
const stage = new Stage(document.getElementById("stage"), clock);
const lanes = new Lanes(document.getElementById("lanes"), clock, state.scene.lanes);
const curves = new Curves(lanes, stage, clock);
window.eidolon = {
  clock,
  stage,
  get scene() {
    return state.scene;
  },
  state,
  lanes,
  curves,
};
stage.hold = true;

// A figure's motion, as far as it is needed to begin with.
async function motion(figure) {
  const samples = new MotionSamples(figure.samples, figure.frames, 3 + 4 * figure.joints.length);
  samples.addEventListener("piece", () => {
    stage.dirty = true;
  });
  await samples.open(clock.frame);
  return samples;
}

// The Steps that work on markers change in place; the later ones draw figures and are loaded anew.
const wantsMarkers = ["label", "clean", "solve"].includes(step) || state.scene.figures.length === 0;
// Everything is asked for at once; figures arrive in any order and are put in theirs.
const loading = document.getElementById("loading");
const failed = (e) => {
  const again = Object.assign(document.createElement("button"), { className: "btn btn-sm", textContent: "Load again", onclick: anew });
  const what = Object.assign(document.createElement("b"), { textContent: "The Stage could not be loaded" });
  const why = Object.assign(document.createElement("span"), { textContent: "What was kept is safe; the connection to the studio broke off." });
  loading?.replaceChildren(what, why, again);
  throw e;
};
// How much of what comes has arrived.
const arrived = ((n, of) => () => loading?.style.setProperty("--e-part", `${(100 * ++n) / of}%`))(
  0,
  state.scene.figures.length + state.scene.props.length + (wantsMarkers ? 1 : 0),
);
await Promise.all([
  wantsMarkers ? state.load(clock.frame).then(() => stage.setMarkers(state.scene.markers, state.scene.links, state.samples)).then(arrived) : null,
  ...state.scene.figures.map(async (figure) => {
    const samples = await motion(figure),
      f = await stage.addFigure(figure, samples.data);
    f.plays(samples);
    if (step === "solve" || step === "clean" || step === "label") f.mode("ghost");
    arrived();
  }),
  ...state.scene.props.map(async (prop) => {
    stage.addProp(await StageProp.load(prop, await floats(prop.samples), stage.palette));
    arrived();
  }),
]).catch(failed);
stage.addSet(setPieces(state.scene.set, stage.palette));
stage.figures.sort((a, b) => state.scene.figures.indexOf(a.info) - state.scene.figures.indexOf(b.info));
stage.props.sort((a, b) => state.scene.props.indexOf(a.info) - state.scene.props.indexOf(b.info));
stage.setContacts(state.scene.contacts);
// The same bodies move otherwise: only their motion is asked for.
async function exchanged(scene) {
  const renew = async (info, on, load) => {
    if (info.state !== on.info.state) await load();
    on.info = info;
    on.held = null;
  };
  await Promise.all([
    ...scene.figures.map((f, i) => renew(f, stage.figures[i], async () => stage.figures[i].plays(await motion(f)))),
    ...scene.props.map((p, i) =>
      renew(p, stage.props[i], async () => {
        stage.props[i].data = await floats(p.samples);
      }),
    ),
  ]);
  stage.setContacts(scene.contacts);
  stage.dirty = true;
}
// Where the figures are only a shadow behind the markers their new motion takes the place of the old one without the page being loaded anew.
if (step === "label" || step === "clean") state.exchange = exchanged;
// At Assemble motions become longer or shorter as well: the Stage, the view and the lanes stay.
if (step === "assemble")
  state.renew = async (scene) => {
    const whole = lanes.from === 0 && lanes.to === Math.max(1, clock.count - 1);
    await exchanged(scene);
    clock.resize(scene.frameCount);
    if (whole) lanes.show(0, clock.count - 1);
  };
layout();
shown();
if (!stage.figures.length && !stage.markers) said("Nothing to show yet");
if (!stage.sameView()) stage.frameAll(step === "retarget" || stage.figures.length > 1 ? 5.6 : 4.4);
stage.hold = false;
loading?.remove();
if (!document.getElementById("picture")) document.body.dataset.ready = "true";
performance.mark("stage");

// ---- one state after another: what the server says takes the place of what was shown ----
state.addEventListener("samples", () => {
  if (!stage.markers) return;
  const chosen = [stage.markers.selected, ...stage.markers.also].map((m) => stage.markers.info[m]?.name);
  stage.setMarkers(state.scene.markers, state.scene.links, state.samples);
  const again = chosen.map((n) => state.scene.markers.findIndex((m) => m.name === n));
  stage.select(
    again[0] ?? -1,
    again.slice(1).filter((m) => m >= 0),
  );
  curves.anew();
});
state.addEventListener("piece", () => {
  stage.dirty = true;
});
state.addEventListener("complete", () => curves.anew());
state.addEventListener("scene", () => {
  lanes.set(state.scene.lanes);
  stage.setContacts(state.scene.contacts);
});
state.addEventListener("changed", (e) => {
  document.body.dataset.ready = "true";
  if (e.detail.said) toast(e.detail.said, e.detail.undoable ? takeBack : null);
});
state.addEventListener("refused", (e) => toast(e.detail));
onChanged(() => (state.renew || (wantsMarkers && state.samples) ? state.refresh() : anew()));
function takeBack() {
  state.send("TakeBack", {});
}
onKey("U", takeBack);
onKey("⇧U", () => state.send("Again", {}));

// ---- curves of the markers that are selected ----
const curveKind = document.getElementById("curves");
if (curveKind && stage.markers) {
  stage.addEventListener("select", (e) => curves.select([e.detail.marker, ...stage.markers.also].filter((m) => m >= 0)));
  const change = () => curves.show(curveKind.value);
  curveKind.addEventListener("change", change);
  change();
  onKey("C", () => {
    curveKind.selectedIndex = (curveKind.selectedIndex + 1) % curveKind.length;
    curveKind.dispatchEvent(new Event("change"));
  });
}

function said(text) {
  document.getElementById("said").textContent = text;
}

// Performers and the characters they play: characters alone, beside their performers, or laid over them.
function layout() {
  if (step !== "retarget") return;
  const view = sessionStorage.getItem("retarget:view") ?? "side";
  const played = stage.figures.filter((f) => f.info.kind === "character"),
    // Several characters of one performer stand beside one another, not inside one another.
    rank = (f) => played.filter((o) => o.info.by === f.info.by).indexOf(f);
  for (const f of stage.figures) {
    const character = f.info.kind === "character";
    f.group.position.x = view === "side" && played.length ? (character ? 0.65 + 1.1 * rank(f) : -0.65) : 0;
    f.group.visible = character || view !== "alone" || played.length === 0;
    f.mode(character || view === "side" || played.length === 0 ? "body" : "ghost");
  }
  // What was recorded goes with the performers, what is attached with the characters.
  const attached = stage.props.filter((p) => p.info.goes === "attached").map((p) => p.info.name);
  for (const p of stage.props) {
    const own = p.info.goes === "attached",
      beside = view === "side" && played.length > 0;
    p.aside = beside ? (own ? (played.find((f) => f.info.node === p.info.cast)?.group.position.x ?? 0.65) : -0.65) : 0;
    p.hidden = !own && !beside && played.length > 0 && attached.includes(p.info.name);
    p.update(stage.frame);
  }
  // The figures stand elsewhere now: both are to be whole in the picture.
  if (stage.figures.length && layout.last && layout.last !== view) stage.stepBack();
  layout.last = view;
}

// The row of choices at the top left depends on the Step.
function shown() {
  const box = document.getElementById("show");
  if ((step === "label" || step === "clean") && stage.markers) {
    toggles(box);
    return;
  }
  const sets = {
    solve: [
      [
        "Markers",
        () => {
          look(true, true);
          mode("none");
        },
      ],
      [
        "Body",
        () => {
          look(true, false);
          mode("ghost");
        },
      ],
      [
        "Bones",
        () => {
          look(true, false);
          mode("both");
        },
      ],
    ],
    retarget: [
      [
        "Characters",
        () => {
          sessionStorage.setItem("retarget:view", "alone");
          layout();
        },
      ],
      [
        "Side by side",
        () => {
          sessionStorage.setItem("retarget:view", "side");
          layout();
        },
      ],
      [
        "Laid over",
        () => {
          sessionStorage.setItem("retarget:view", "over");
          layout();
        },
      ],
      [
        "Bones",
        () => {
          layout();
          mode("both");
        },
      ],
    ],
  };
  const choices = sets[step] ?? [
    ["Body", () => mode("body")],
    ["Body and bones", () => mode("both")],
    ["Bones", () => mode("bones")],
  ];
  const key = "show:" + step,
    kept = Number(localStorage.getItem(key) ?? (step === "solve" ? 2 : step === "retarget" && stage.figures.length < 4 ? 1 : 0));
  choices.forEach(([name, action], i) => {
    const b = document.createElement("button");
    b.textContent = name;
    b.type = "button";
    const on = () => {
      [...box.children].forEach((c) => {
        c.classList.toggle("on", c === b);
        c.setAttribute("aria-pressed", c === b);
      });
      localStorage.setItem(key, i);
      action();
      stage.dirty = true;
    };
    b.addEventListener("click", on);
    box.append(b);
    if (i === kept) on();
  });
}

// Dots, links and figure, each for itself.
function toggles(box) {
  const kept = JSON.parse(localStorage.getItem("show:parts") ?? '{"Dots":true,"Links":true,"Figure":true}');
  const apply = () => {
    look(kept.Dots, kept.Links);
    mode(!kept.Figure ? "none" : kept.Dots || kept.Links ? "ghost" : "body");
    stage.dirty = true;
  };
  for (const name of stage.figures.length ? ["Dots", "Links", "Figure"] : ["Dots", "Links"]) {
    const b = document.createElement("button");
    b.textContent = name;
    b.type = "button";
    const mark = () => {
      b.classList.toggle("on", kept[name]);
      b.setAttribute("aria-pressed", kept[name]);
    };
    b.addEventListener("click", () => {
      kept[name] = !kept[name];
      localStorage.setItem("show:parts", JSON.stringify(kept));
      mark();
      apply();
    });
    box.append(b);
    mark();
  }
  apply();
}

function look(dots, links) {
  if (stage.markers) stage.markers.shown = { dots, links };
}

function mode(kind) {
  for (const f of stage.figures) {
    f.group.visible = kind !== "none";
    if (kind !== "none") f.mode(kind);
  }
}

// ---- the Stage's own controls ----
const follow = document.getElementById("follow");
const showFollow = () => {
  follow.classList.toggle("on", stage.follow);
  follow.setAttribute("aria-pressed", stage.follow);
};
follow.addEventListener("click", () => {
  stage.setFollow(!stage.follow);
  showFollow();
});
showFollow();
let from = 0;
document.getElementById("frame-all").addEventListener("click", () => stage.frameAll());
document.getElementById("rides")?.addEventListener("click", (e) => {
  const b = e.target.closest("[data-close]");
  if (b) stage.closeTo(b.dataset.close || null);
});
const viewFrom = () => {
  document.getElementById("view-from").textContent = `From ${stage.view(++from)}`;
};
document.getElementById("view-from").addEventListener("click", viewFrom);
const views = document.getElementById("views");
const nextViews = () => {
  const n = stage.views.next();
  views.textContent = n === 1 ? "One view" : n === 2 ? "Two views" : "Four views";
};
views.addEventListener("click", nextViews);
const speed = document.getElementById("speed");
const setSpeed = () => {
  clock.speed = Number(speed.value);
};
speed.addEventListener("change", setSpeed);
setSpeed();

onKey(" ", () => clock.toggle());
onKey("ArrowLeft", (e) => clock.step(e.shiftKey ? -10 : -1));
onKey("ArrowRight", (e) => clock.step(e.shiftKey ? 10 : 1));
onKey("Home", () => clock.set(clock.inPoint));
onKey("End", () => clock.set(clock.outPoint));
onKey("V", viewFrom);
onKey("F", () => follow.click());
onKey("⇧F", nextViews);
onKey("⇧E", () => stage.setGuides(!stage.guided));
onKey("Z", () => stage.frameAll());
onKey("T", () => stage.toggleTrail());
onKey("O", () => document.querySelector("[data-circle]")?.click());
const rangeSaid = () => {
  document.getElementById("range-said").textContent =
    clock.inPoint > 0 || clock.outPoint < clock.count - 1 ? `loops ${clock.inPoint}–${clock.outPoint}` : "";
};
onKey("B", () => {
  clock.range(clock.frame, Math.max(clock.frame, clock.outPoint));
  rangeSaid();
});
onKey("⇧B", () => {
  clock.range(Math.min(clock.inPoint, clock.frame), clock.frame);
  rangeSaid();
});

// ---- a lane's click selects its marker or its worst gap ----
lanes.addEventListener("lane", (e) => {
  const { lane, index } = e.detail;
  lanes.rowElements.forEach((r, i) => r.classList.toggle("sel", i === index));
  if (lane.marker !== undefined) stage.select(lane.marker);
  const hit = lane.gaps?.find(([a, b]) => clock.frame >= a - 2 && clock.frame <= b + 2);
  if (hit) stage.select(hit[2]);
});

// ---- what the right and left side of the page do ----
const page = { state, stage, clock, lanes, curves, run, said };
new Findings(page);
window.eidolon.ledger = new LedgerPanel(page);
onKey("Y", () => window.eidolon.ledger.bringUp());
new Smoothing(page);
if (stage.markers && step !== "label")
  stage.addEventListener("pick", (e) => {
    const { marker, more } = e.detail,
      old = stage.markers.selected;
    stage.select(marker, more && old >= 0 ? [old, ...stage.markers.also] : []);
    said(marker >= 0 ? state.scene.markers[marker].name : "");
  });
if (stage.markers && step !== "label")
  stage.addEventListener("hover", (e) => {
    if (e.detail.marker >= 0) said(state.scene.markers[e.detail.marker].name);
  });
if (step === "label" && state.scene.markers.length) window.eidolon.labels = new Labels(page);
if (["clean", "solve"].includes(step) && stage.figures.length) new Contacts(page);
if (document.getElementById("picture")) window.eidolon.films = await Films.open(page, document.getElementById("picture"));

// ---- Retarget, Assemble, Polish ----
if (step === "retarget")
  onKey("E", () => {
    const over = sessionStorage.getItem("retarget:view") === "over";
    sessionStorage.setItem("retarget:view", over ? "side" : "over");
    layout();
    stage.dirty = true;
  });
document.querySelectorAll("input[type=range]").forEach((r) =>
  r.addEventListener("input", () => {
    const o = r.parentElement.querySelector("output");
    if (o && !o.hasAttribute("x-text")) o.textContent = r.value;
  }),
);
if (step === "assemble") {
  joining(page);
  page.echoes = window.eidolon.echoes = new Echoes(page);
  state.addEventListener("scene", () => page.echoes.renew());
}
if (step === "retarget" && document.getElementById("retarget-form")) new HoldControls(page);
const inset = document.getElementById("film-inset");
if (inset) window.eidolon.film = beside(page, inset);
const jotted = document.getElementById("part-notes");
if (jotted) new Notes(page, jotted);
const report = document.querySelector("[data-report]");
if (report) reporting(page, report);
if (step === "polish") {
  const layer = document.querySelector('[x-data="layer"]');
  onKey("A", () => layer?.dispatchEvent(new Event("e-add-key")));
  onKey("L", () => layer?.dispatchEvent(new Event("e-add-release")));
}

listing(page, document.getElementById("stage-list"));
