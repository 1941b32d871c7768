import { onKey, toast } from "../app.js";
import { Tracks } from "./tracks.js";

const field = (id) => document.getElementById(id),
  supports = { L: "left foot", R: "right foot", both: "both feet", none: "in flight" };

// The forms at Assemble: the clip that is chosen, how it meets the one before it, good moments for that, and a loop of what the track makes.
export function joining(page) {
  const { run, lanes, clock } = page,
    form = field("assemble-form"),
    scene = document.getElementById("main").dataset.scene;
  const tracks = new Tracks(page);
  window.eidolon.tracks = tracks;
  let asked = 0,
    best = null;

  function measured(lane, clip) {
    const o = lane.overlaps.find((x) => x.clip === clip),
      big = (words, value, unit, bad) => {
        const div = document.createElement("div");
        div.innerHTML = `<div class="small mid"></div><div class="e-big"><span></span> <small></small></div>`;
        div.querySelector(".mid").textContent = words;
        div.querySelector(".e-big span").textContent = value;
        div.querySelector("small").textContent = unit;
        div.querySelector(".e-big").classList.toggle("e-warn", !!bad);
        return div;
      };
    if (!o) {
      field("measures").replaceChildren();
      return;
    }
    field("measures").replaceChildren(
      big("Feet slide, planted", (o.slideMillimetres ?? 0).toFixed(1), "mm/frame", o.slide),
      big(
        "Jolt, × the clips' own",
        o.accelerationPeakRatio.toFixed(1),
        o.before ? `×, was ${o.before.toFixed(1)}` : "×",
        o.jolt,
      ),
      big("Clip moved", o.movedMetres.toFixed(2), "m"),
      big("and turned", Math.round(o.turnedDegrees), "°"),
      ...(o.warnings ?? []).map((w) => Object.assign(document.createElement("p"), { className: "small mid e-across", textContent: w })),
    );
    field("meet-words").textContent = o.end < o.start ? `a cut at ${o.start}` : `the overlap at ${o.start}–${o.end}`;
  }

  // Good moments come a little later than the page: they are looked for when a clip is chosen.
  async function moments(lane, clip) {
    const mine = ++asked,
      box = field("moments");
    best = null;
    // What lies below stays where it is while they are looked for: a hand may be on it.
    const put = (busy, ...what) => {
      box.style.setProperty("min-height", busy ? `${box.offsetHeight}px` : "0");
      box.setAttribute("aria-busy", busy);
      box.replaceChildren(...what);
    };
    const say = (text, busy = false) => put(busy, Object.assign(document.createElement("p"), { className: "small dim", textContent: text }));
    if ([clip - 1, clip].some((i) => (lane.clips[i].speed ?? 1) !== 1 || (lane.clips[i].repeat ?? 1) > 1 || lane.clips[i].reverse)) {
      say("Proposed for clips at their own speed, played once and forwards.");
      return;
    }
    say("Looking …", true);
    const answer = await fetch(`/api/scenes/${scene}/moments/${lane.node}?clip=${clip}`).catch(() => null);
    if (mine !== asked) return;
    if (!answer?.ok) {
      say(answer ? await answer.text() : "The server did not answer.");
      return;
    }
    const told = await answer.json();
    if (!told.moments.length) {
      say("None: the two have too little in common.");
      return;
    }
    put(
      false,
      ...told.moments.map((m) => {
        const b = document.createElement("button");
        b.type = "button";
        b.className = "btn btn-plain sm e-moment";
        b.innerHTML = `<span class="n"></span><span class="mid"></span><span class="n end"></span>`;
        const [at, how, apart] = b.children;
        at.textContent = `${m.a} on ${m.b}`;
        how.textContent = m.supportA === m.supportB ? supports[m.supportA] : `${supports[m.supportA]}, ${supports[m.supportB]}`;
        apart.textContent = `${Math.round(m.millimetres)} mm`;
        b.addEventListener("click", () => take(lane, clip, m));
        return b;
      }),
    );
    best = () => take(lane, clip, told.moments[0]);
    // The strip lies under the track: the taller, the more alike both are when the overlap begins there.
    const before = lane.blocks[clip - 1],
      from = before[0] + told.from - (lane.clips[clip - 1].start ?? 0),
      n = 300,
      values = Array(n).fill(0);
    told.apart.forEach((d, i) => {
      const at = Math.round(((from + i * told.step) / Math.max(1, clock.count - 1)) * (n - 1));
      if (at >= 0 && at < n) values[at] = Math.max(values[at], 1 / (1 + (d / 60) ** 2));
    });
    lanes.set([
      ...lanes.lanes.filter((l) => l.kind !== "strip").flatMap((l) => (l === lane ? [l, strip(values, told.moments[0])] : [l])),
    ]);
    tracks.mark();
  }

  const strip = (values, m) => ({ kind: "strip", name: "Good moments", side: "N", tally: `best ${Math.round(m.millimetres)} mm`, values, scale: 1 });

  function take(lane, clip, m) {
    const clips = structuredClone(lane.clips);
    clips[clip - 1].end = m.a + m.frames;
    clips[clip].start = m.b;
    clips[clip].overlap = m.frames;
    tracks.send(lane, clips);
  }

  function chosen(at) {
    if (!form) return;
    field("no-clip").hidden = !!at;
    field("clip-part").hidden = !at;
    field("meet-part").hidden = !at || at.clip === 0;
    lanes.set(lanes.lanes.filter((l) => l.kind !== "strip"));
    tracks.mark();
    shelf();
    if (!at) return;
    const c = at.lane.clips[at.clip],
      length = at.lane.lengths[at.clip];
    field("clip-name").textContent = at.lane.blocks[at.clip]?.[2] ?? "Clip";
    field("clip-range").textContent = at.lane.blocks[at.clip] ? `${at.lane.blocks[at.clip][0]}–${at.lane.blocks[at.clip][1]}` : "";
    field("clip-start").value = c.start ?? 0;
    field("clip-end").value = c.end ?? length;
    field("clip-of").textContent = `of ${length}`;
    field("clip-speed").value = c.speed ?? 1;
    field("clip-repeat").value = c.repeat ?? 1;
    field("clip-mirror").checked = !!c.mirror;
    field("clip-reverse").checked = !!c.reverse;
    field("put-x").value = c.moved?.x ?? 0;
    field("put-z").value = c.moved?.z ?? 0;
    field("put-turn").value = c.moved?.turn ?? 0;
    field("put-axes").value = c.moved?.axes ?? "scene";
    if (at.clip === 0) return;
    field("meet-joint").value = c.meet?.joint ?? "";
    const frame = field("meet-moment").querySelector("[value=frame]"),
      said = c.meet?.moment ?? "middle";
    frame.hidden = typeof said !== "number";
    frame.textContent = `frame ${said} of it`;
    field("meet-moment").value = typeof said === "number" ? "frame" : said;
    field("meet-place").value = c.meet?.place ?? "floor";
    field("meet-turn").value = c.meet?.turn ?? "heading";
    field("overlap").value = c.overlap ?? at.lane.overlap;
    field("overlap-shape").value = c.shape ?? "smooth";
    field("smooth").value = c.smooth ?? 0;
    const own = Object.keys(c.parts ?? {});
    field("parts-words").textContent = own.length ? `${own.length} of their own` : "all at once";
    for (const row of document.querySelectorAll("#parts-of [data-part]")) {
      const [from, to] = c.parts?.[row.dataset.part] ?? [0, 1],
        [a, b] = row.querySelectorAll("input");
      a.value = Math.round(from * 100);
      b.value = Math.round(to * 100);
    }
    measured(at.lane, at.clip);
    moments(at.lane, at.clip);
  }
  page.chosen = chosen;

  const number = (id) => Number(field(id).value.replace(",", ".")) || 0;
  form?.addEventListener("submit", (e) => e.preventDefault());
  // What is said of how clips are played goes to every one that is chosen; the rest belongs to one place on the track.
  form?.addEventListener("change", (e) => {
    const at = tracks.at;
    if (!at || e.target.id === "put-stay") return;
    const clips = structuredClone(at.lane.clips),
      is = (id) => e.target.id === id;
    for (const i of tracks.all) {
      const c = clips[i];
      if (is("clip-speed")) c.speed = number("clip-speed") || 1;
      if (is("clip-repeat")) c.repeat = Math.max(1, Math.round(number("clip-repeat")));
      if (is("clip-mirror")) c.mirror = field("clip-mirror").checked;
      if (is("clip-reverse")) c.reverse = field("clip-reverse").checked;
      if (i > 0 && is("overlap")) c.overlap = field("overlap").value.trim() === "best" ? "best" : Math.max(0, Math.round(number("overlap")));
      if (i > 0 && is("overlap-shape")) c.shape = field("overlap-shape").value;
      if (i > 0 && is("smooth")) c.smooth = Math.max(0, Math.round(number("smooth")));
    }
    const c = clips[at.clip];
    if (is("clip-start")) c.start = Math.max(0, Math.round(number("clip-start")));
    if (is("clip-end")) c.end = Math.round(number("clip-end"));
    if (/^put-/.test(e.target.id))
      tracks.put(clips, at.clip, { x: number("put-x"), z: number("put-z"), turn: number("put-turn"), axes: field("put-axes").value });
    if (/^meet-/.test(e.target.id)) c.meet = meet(at, c);
    if (e.target.closest("[data-part]")) c.parts = parts();
    tracks.send(at.lane, clips);
  });

  function meet(at, c) {
    const o = at.lane.overlaps.find((x) => x.clip === at.clip),
      said = field("meet-moment").value,
      // The playhead means the frame it is on: where it goes afterwards changes nothing.
      moment = said === "playhead" ? Math.max(0, clock.frame - (o?.start ?? 0)) : said === "frame" ? c.meet.moment : said,
      met = { moment, place: field("meet-place").value, turn: field("meet-turn").value };
    if (field("meet-joint").value) met.joint = field("meet-joint").value;
    return met;
  }

  // Parts that take the whole overlap are not named.
  function parts() {
    const own = {};
    for (const row of document.querySelectorAll("#parts-of [data-part]")) {
      const [from, to] = [...row.querySelectorAll("input")].map((i) => Math.min(100, Math.max(0, Number(i.value) || 0)) / 100);
      if (from > 0 || to < 1) own[row.dataset.part] = [from, to];
    }
    return own;
  }

  // Jolts are Findings: a click goes there, and one more smooths it.
  document.getElementById("part-joins")?.addEventListener("click", (e) => {
    const smooth = e.target.closest("[data-smooth]")?.dataset.smooth,
      found = e.target.closest("[data-clip]"),
      lane = tracks.lane(Number(form.dataset.node));
    if (found) {
      tracks.choose(lane.node, Number(found.dataset.clip));
      clock.set(Number(found.dataset.start));
    }
    if (!smooth) return;
    const clips = structuredClone(lane.clips),
      usual = Math.round(0.3 * clock.rate),
      jolts = smooth === "all" ? [...document.querySelectorAll("[data-smooth]")].map((b) => b.dataset.smooth) : [smooth];
    for (const i of jolts.map(Number).filter(Number.isFinite)) clips[i].smooth ||= usual;
    tracks.choose(lane.node, Number.isFinite(Number(smooth)) ? Number(smooth) : undefined);
    tracks.send(lane, clips);
  });
  let next = -1;
  onKey("N", () => {
    const all = [...document.querySelectorAll("#joins [data-clip]")];
    if (all.length) all[(next = (next + 1) % all.length)].click();
  });
  onKey("G", () => (best ? best() : toast("Choose a clip that follows another one first")));
  document.getElementById("loop")?.addEventListener("click", () =>
    run(
      "loop",
      { cycles: Math.max(1, Math.round(number("cycles")) || 1), inPlace: field("in-place").checked, ...bend() },
      field("loop-form").dataset.node,
    ),
  );
  const bend = () => ({ "": {}, straight: { bend: 0 }, bent: { bend: number("loop-bend") } })[field("loop-path").value];
  const showBend = () => {
    field("loop-bend").disabled = field("loop-path").value !== "bent";
  };
  if (field("loop-path")) {
    field("loop-path").addEventListener("change", showBend);
    showBend();
  }

  // ---- into the library: the clip that is chosen, or what the track makes between the marks of the playhead's loop ----
  function shelf() {
    if (!field("shelf-form")) return;
    const at = tracks.at,
      part = clock.inPoint > 0 || clock.outPoint < clock.count - 1;
    field("shelf-clip").value = at?.clip ?? -1;
    field("keep-clip").disabled = !at;
    field("shelf-from").value = part ? clock.inPoint : 0;
    field("shelf-to").value = part ? clock.outPoint + 1 : "";
    field("bake").textContent = part ? `Bake ${clock.inPoint}–${clock.outPoint}` : "Bake the track";
  }
  clock.addEventListener("range", shelf);
  field("track-in-place")?.addEventListener("change", (e) => tracks.inPlace(Number(e.target.dataset.node), e.target.checked));
  field("bring-in")?.addEventListener("change", (e) => e.target.form.requestSubmit());

  chosen(tracks.at);

  // The track as the server has it now: the clip that was chosen, its numbers and its moments anew.
  page.state.addEventListener("scene", () => {
    tracks.choose(tracks.at?.lane.node, tracks.at?.clip, tracks.chosen?.also);
  });
}
