import { onCommand, onKey, toast } from "../app.js";
import { Clipboard } from "./clipboard.js";
import { definite } from "./cuts.js";
import { Library } from "./library.js";
import { TrackStates } from "./trackstates.js";
import { Trying } from "./trying.js";

// Clips on their tracks: taken hold of, moved, trimmed, split, taken off. What comes of it the server works out; here only the wish is shown.
const edge = 9,
  near = 8;

export class Tracks {
  constructor(page) {
    Object.assign(this, { page, lanes: page.lanes, clock: page.clock, run: page.run });
    this.key = "tracks:" + document.getElementById("main").dataset.scene;
    const kept = JSON.parse(sessionStorage.getItem(this.key) ?? "null");
    this.chosen = kept && this.lane(kept.node)?.blocks[kept.clip] ? kept : null;
    this.states = new TrackStates(page);
    this.clipboard = new Clipboard(this);
    this.lanes.addEventListener("grab", (e) => this.grab(e));
    this.clock.addEventListener("frame", () => this.say());
    document.querySelector(".e-scrub").addEventListener("pointermove", (e) => this.hint(e));
    onKey("S", () => this.split());
    for (const [keys, side] of [
      ["[,", "start"],
      ["].", "end"],
    ])
      for (const key of keys) onKey(key, () => this.trim(side));
    onKey("Delete", () => this.remove());
    onKey("D", () => this.again());
    onCommand("A", () => this.chooseAll());
    onCommand("C", () => this.clipboard.copy());
    onCommand("X", () => this.clipboard.cut());
    onCommand("V", () => this.clipboard.paste());
    const acts = {
      split: () => this.split(),
      from: () => this.trim("start"),
      to: () => this.trim("end"),
      off: () => this.remove(),
      again: () => this.again(),
      copy: () => this.clipboard.copy(),
      paste: () => this.clipboard.paste(),
    };
    for (const b of document.querySelectorAll("[data-clip-do]")) b.addEventListener("click", acts[b.dataset.clipDo]);
    this.library = new Library(this, document.getElementById("main").dataset.scene);
    this.mark();
    this.trying = new Trying(
      (pose, [, , node]) => this.show(node, pose),
      (words) => this.page.said(words),
    );
  }

  lane(node) {
    return this.lanes.lanes.find((l) => l.kind === "track" && l.node === node);
  }

  get tracks() {
    return this.lanes.lanes.filter((l) => l.kind === "track");
  }

  // The clip that is worked on: its lane and its place in it.
  get at() {
    const lane = this.chosen && this.lane(this.chosen.node);
    // A clip that was put there a moment ago is on its way.
    return lane?.blocks[this.chosen.clip] && lane.clips[this.chosen.clip] ? { lane, clip: this.chosen.clip } : null;
  }

  // All clips that are chosen, the one that is worked on among them, in their order on the track.
  get all() {
    const at = this.at;
    return at ? [...new Set([at.clip, ...(this.chosen.also ?? [])])].filter((i) => at.lane.clips[i]).sort((a, b) => a - b) : [];
  }

  // One more, or one less.
  alsoChoose(node, clip) {
    const at = this.at;
    if (!at || at.lane.node !== node) {
      this.choose(node, clip);
      return;
    }
    const all = new Set(this.all);
    if (all.has(clip) && all.size > 1) all.delete(clip);
    else all.add(clip);
    const main = all.has(clip) ? clip : Math.max(...all);
    this.choose(node, main, [...all].filter((i) => i !== main));
  }

  chooseAll() {
    const lane = this.at?.lane ?? this.tracks[0];
    if (lane) this.choose(lane.node, lane.clips.length - 1, [...lane.clips.keys()].slice(0, -1));
  }

  choose(node, clip, also = []) {
    this.chosen = node === undefined ? null : { node, clip, also };
    sessionStorage.setItem(this.key, JSON.stringify(this.chosen));
    this.mark();
    this.page.chosen?.(this.at);
    this.page.echoes?.plan();
  }

  mark() {
    for (const l of this.tracks) {
      l.chosen = this.chosen?.node === l.node ? this.chosen.clip : undefined;
      l.also = this.chosen?.node === l.node ? (this.chosen.also ?? []) : [];
    }
    this.lanes.draw();
    this.say();
  }

  say() {
    const at = this.at;
    for (const b of document.querySelectorAll("[data-clip-do]")) {
      const inside = at && this.clock.frame > at.lane.blocks[at.clip][0] && this.clock.frame < at.lane.blocks[at.clip][1];
      if (b.dataset.clipDo === "paste") b.disabled = !this.clipboard.holds;
      else b.disabled = !at || (["split", "from", "to"].includes(b.dataset.clipDo) && !inside);
    }
  }

  definite(lane) {
    return definite(lane);
  }

  // What of a clip plays at a frame of the track: a frame of its own source.
  source({ lane, clip }, frame) {
    const c = this.definite(lane)[clip],
      into = (frame - lane.blocks[clip][0]) * (c.speed ?? 1);
    return Math.round(c.reverse ? (c.end ?? lane.lengths[clip]) - into : (c.start ?? 0) + into);
  }

  // What is said of a track: its clips, and what holds for all of them.
  setUp(lane, clips) {
    return { clips, overlap: lane.overlap, ...(lane.inPlace && { inPlace: true }) };
  }

  // The whole track without its way over the floor, or with it.
  inPlace(node, on) {
    const lane = this.lane(node);
    if (!lane || !!lane.inPlace === on) return;
    lane.inPlace = on;
    this.send(lane, lane.clips);
  }

  send(lane, clips) {
    if (!clips.length) {
      toast("A track keeps one clip at least");
      return;
    }
    if (this.states.locked(lane.node)) {
      toast(`The track of the ${lane.name} is locked`);
      this.page.chosen?.(this.at);
      return;
    }
    document.body.dataset.ready = "false";
    this.run("clips", this.setUp(lane, clips), lane.node);
  }

  // ---- by pointer: the edges trim, the middle moves ----
  hit(at) {
    if (at.lane?.kind !== "track") return null;
    const reach = edge * at.perPixel,
      hits = at.lane.blocks.map(([a, b], clip) => ({ clip, a, b })).filter(({ a, b }) => at.frame >= a - reach && at.frame <= b + reach);
    if (!hits.length) return null;
    // Where two overlap, the chosen one is taken, else the nearer edge.
    const off = (h) => Math.min(Math.abs(at.frame - h.a), Math.abs(at.frame - h.b)),
      own = hits.find((h) => h.clip === at.lane.chosen) ?? hits.find((h) => at.lane.also?.includes(h.clip)) ?? hits.sort((p, q) => off(p) - off(q))[0];
    const part = Math.abs(at.frame - own.a) <= reach ? "start" : Math.abs(at.frame - own.b) <= reach ? "end" : "middle";
    return { ...own, part, lane: at.lane };
  }

  hint(e) {
    const scrub = e.currentTarget;
    if (this.drag) return;
    const hit = this.hit(this.lanes.under(e));
    scrub.classList.toggle("e-trim", hit?.part === "start" || hit?.part === "end");
    scrub.classList.toggle("e-move", hit?.part === "middle");
  }

  grab(e) {
    const hit = this.hit(e.detail);
    if (!hit) return;
    const { event, frame } = e.detail,
      scrub = document.querySelector(".e-scrub");
    // With Shift or Alt an edge changes how the clip is played; anywhere else Shift chooses one more.
    const edges = hit.part === "end" && (event.shiftKey || event.altKey);
    if (!edges && (event.shiftKey || event.ctrlKey || event.metaKey)) {
      e.preventDefault();
      this.alsoChoose(hit.lane.node, hit.clip);
      return;
    }
    // What is chosen together is taken hold of together.
    const all = this.all,
      together = this.at?.lane === hit.lane && all.length > 1 && all.includes(hit.clip) && hit.part === "middle";
    if (!together) this.choose(hit.lane.node, hit.clip);
    if (this.states.locked(hit.lane.node)) {
      if (hit.part === "middle") this.clock.set(frame);
      e.preventDefault();
      return;
    }
    // The middle of a clip that is only clicked sets the time as well.
    if (hit.part === "middle") this.clock.set(frame);
    e.preventDefault();
    scrub.setPointerCapture(event.pointerId);
    // What the drag is going to need is made ready when the hand takes hold.
    const clips = this.definite(hit.lane);
    this.try(hit.lane, hit.clip, this.clock.frame, clips);
    const how = edges ? (event.shiftKey ? "speed" : "repeat") : null;
    this.drag = { ...hit, how, group: together ? all : [hit.clip], from: frame, x: event.clientX, moved: false, playhead: this.clock.frame, clips };
    const move = (m) => this.dragged(m),
      up = (u) => {
        scrub.removeEventListener("pointermove", move);
        scrub.removeEventListener("pointerup", up);
        this.dropped(u);
      };
    scrub.addEventListener("pointermove", move);
    scrub.addEventListener("pointerup", up);
  }

  // Holds to the playhead, to the edges of the neighbours, to where feet land.
  snapped(frame, perPixel, own) {
    if (document.getElementById("snap")?.checked === false) return frame;
    const places = [own.playhead, ...own.lane.blocks.flatMap(([a, b], i) => (i === own.clip ? [] : [a, b]))];
    for (const l of this.lanes.lanes) if (l.kind === "blocks" && l.blocks.length && l.side !== "C") places.push(...l.blocks.flatMap(([a, b]) => [a, b]));
    const best = places.reduce((p, q) => (Math.abs(q - frame) < Math.abs(p - frame) ? q : p), Infinity);
    return Math.abs(best - frame) < near * perPixel ? best : frame;
  }

  dragged(e) {
    const d = this.drag,
      at = this.lanes.under(e);
    if (Math.abs(e.clientX - d.x) < 3 && !d.moved) return;
    d.moved = true;
    const by = at.frame - d.from,
      c = d.clips[d.clip],
      [start, end] = [c.start ?? 0, c.end ?? d.lane.lengths[d.clip]],
      speed = c.speed ?? 1,
      blocks = d.lane.blocks.map((b) => [...b]);
    if (d.how) {
      // How often, or how fast, so that it ends there; how long it is of itself stays to be read.
      const own = end - start,
        long = Math.max(2, this.snapped(d.b + by, at.perPixel, d) - d.a),
        more = (d.how === "repeat" ? Math.max(1, Math.round(long / (own / speed))) * (own / speed) : long) - (d.b - d.a);
      if (d.how === "repeat") d.repeat = Math.max(1, Math.round(long / (own / speed)));
      else d.speed = Math.min(100, Math.max(0.01, Math.round((own * (c.repeat ?? 1) * 100) / long) / 100));
      for (let i = d.clip; i < blocks.length; i++) {
        if (i > d.clip) blocks[i][0] += more;
        blocks[i][1] += more;
      }
      this.page.said(d.how === "repeat" ? `${d.repeat} times ${own} frames` : `${d.speed} × its speed; ${own} frames of itself, ${Math.round(long)} now`);
    } else if (d.part === "end") {
      const to = this.snapped(d.b + by, at.perPixel, d);
      d.end = Math.max(start + 2, Math.min(d.lane.lengths[d.clip], Math.round(end + (to - d.b) * speed)));
      const more = Math.round((d.end - end) / speed);
      for (let i = d.clip; i < blocks.length; i++) {
        if (i > d.clip) blocks[i][0] += more;
        blocks[i][1] += more;
      }
      this.page.said(`ends at ${d.end} of ${d.lane.lengths[d.clip]}`);
    } else if (d.part === "start") {
      const to = this.snapped(d.a + by, at.perPixel, d);
      d.start = Math.max(0, Math.min(end - 2, Math.round(start + (to - d.a) * speed)));
      const less = Math.round((d.start - start) / speed);
      blocks[d.clip][0] += less;
      this.page.said(`begins at ${d.start}`);
    } else {
      // A clip meets the one before it: pushed towards it they overlap more; past a neighbour's middle the two change places.
      const begin = this.snapped(d.a + by, at.perPixel, d),
        middle = (b) => (b[0] + b[1]) / 2,
        centre = begin + (d.b - d.a) / 2,
        rest = d.lane.blocks.filter((_, i) => !d.group.includes(i));
      // Its place among those that stay; what is chosen together goes there together.
      d.place = rest.filter((b) => middle(b) < centre).length;
      d.overlap = null;
      if (d.place === d.clip && d.clip > 0 && d.group.length === 1) d.overlap = Math.max(0, Math.round(d.lane.blocks[d.clip - 1][1] + 1 - begin));
      blocks[d.clip] = [begin, begin + d.b - d.a, blocks[d.clip][2]];
      const overlaps = d.overlap !== null ? `overlaps by ${d.overlap} frames` : "the first clip begins the track";
      this.page.said(d.place !== d.clip ? `becomes clip ${d.place + 1}` : overlaps);
    }
    d.lane.dragged = blocks;
    this.lanes.draw();
    this.follow(d, blocks[d.clip]);
  }

  // What a drag wishes for: the clips as they would be, and the place of the one that is dragged; null when nothing changes.
  wish(d) {
    const clips = structuredClone(d.clips),
      c = clips[d.clip],
      at = d.clip;
    if (d.repeat !== undefined || d.speed !== undefined) {
      if ((d.repeat ?? c.repeat ?? 1) === (c.repeat ?? 1) && (d.speed ?? c.speed ?? 1) === (c.speed ?? 1)) return null;
      Object.assign(c, d.repeat !== undefined ? { repeat: d.repeat } : { speed: d.speed });
    } else if (d.end !== undefined && d.end !== (c.end ?? d.lane.lengths[d.clip])) c.end = d.end;
    else if (d.start !== undefined && d.start !== (c.start ?? 0)) c.start = d.start;
    else if (d.part === "middle" && (d.group.length > 1 || d.place !== d.clip)) {
      const rest = clips.filter((_, i) => !d.group.includes(i));
      rest.splice(d.place, 0, ...d.group.map((i) => clips[i]));
      return rest.every((x, i) => x === clips[i]) ? null : { clips: rest, at: rest.indexOf(c) };
    } else if (d.overlap !== null && d.overlap !== undefined) {
      const most = Math.min(...[d.clip - 1, d.clip].map((i) => (clips[i].end ?? d.lane.lengths[i]) - (clips[i].start ?? 0)));
      c.overlap = Math.min(d.overlap, most);
    } else return null;
    return { clips, at };
  }

  try(lane, clip, frame, clips) {
    const parameters = JSON.stringify(this.setUp(lane, clips));
    this.trying.ask("Clip", Number(document.getElementById("main").dataset.scene), lane.node, clip, frame, parameters);
  }

  // The figure follows: an edge that is trimmed shows the pose there, and the playhead goes with it; a clip that is moved shows the moment that is looked at.
  follow(d, [from, to]) {
    const wish = this.wish(d);
    if (!wish) return;
    const frame = Math.round(d.part === "end" ? to : d.part === "start" ? from : d.playhead);
    if (d.part !== "middle") this.clock.set(Math.min(frame, this.clock.count - 1));
    this.try(d.lane, Math.min(wish.at, ...d.group, d.clip), frame, wish.clips);
  }

  show(node, pose) {
    // A clip that is only clicked stays as it is kept: its feet are held there.
    if (!this.drag?.moved) return;
    const figure = this.page.stage.figures.find((f) => f.info.node === node);
    figure?.hold(new Float32Array(pose.slice().buffer), this.clock.frame);
    this.page.stage.dirty = true;
  }

  dropped() {
    const d = this.drag;
    this.drag = null;
    delete d.lane.dragged;
    this.trying.done();
    const wish = d.moved ? this.wish(d) : null;
    if (!wish) {
      this.lanes.draw();
      return;
    }
    // They lie side by side now.
    const first = wish.at - d.group.indexOf(d.clip);
    if (wish.at !== d.clip || d.group.length > 1)
      this.choose(
        d.lane.node,
        wish.at,
        d.group.map((_, i) => first + i).filter((i) => i !== wish.at),
      );
    this.send(d.lane, wish.clips);
  }

  // ---- by key and button, at the playhead ----
  split() {
    const at = this.at;
    if (!at) return;
    const c = this.definite(at.lane)[at.clip],
      where = this.source(at, this.clock.frame),
      [start, end] = [c.start ?? 0, c.end ?? at.lane.lengths[at.clip]];
    if (where <= start + 1 || where >= end - 1 || c.reverse || (c.repeat ?? 1) > 1) {
      toast(c.reverse || (c.repeat ?? 1) > 1 ? "A clip that is turned round or repeated cannot be split" : "Put the playhead inside the clip first");
      return;
    }
    const clips = this.definite(at.lane),
      // Both halves go on as one until something is done to one of them.
      first = { ...clips[at.clip], end: where + 1 },
      second = { ...clips[at.clip], start: where, overlap: 1, meet: {} };
    clips.splice(at.clip, 1, first, second);
    this.send(at.lane, clips);
  }

  trim(side) {
    const at = this.at;
    if (!at) return;
    const c = this.definite(at.lane)[at.clip],
      where = this.source(at, this.clock.frame),
      [start, end] = [c.start ?? 0, c.end ?? at.lane.lengths[at.clip]];
    if (where <= start + 1 || where >= end - 1) {
      toast("Put the playhead inside the clip first");
      return;
    }
    const clips = this.definite(at.lane);
    clips[at.clip][side] = where;
    this.send(at.lane, clips);
  }

  remove() {
    const at = this.at,
      all = this.all;
    if (!at) return;
    const clips = structuredClone(at.lane.clips).filter((_, i) => !all.includes(i));
    if (clips.length && !this.states.locked(at.lane.node)) this.choose();
    this.send(at.lane, clips);
  }

  again() {
    const at = this.at,
      all = this.all;
    if (!at) return;
    this.insert(
      at.lane,
      all.at(-1) + 1,
      all.map((i) => at.lane.clips[i]),
    );
  }

  // Clips laid between others, as they were played; how they met what was before them says nothing here.
  insert(lane, index, more) {
    const clips = structuredClone(lane.clips),
      laid = structuredClone(more);
    laid[0].overlap = "best";
    delete laid[0].meet;
    for (const c of laid) delete c.moved;
    clips.splice(index, 0, ...laid);
    if (!this.states.locked(lane.node))
      this.choose(
        lane.node,
        index + laid.length - 1,
        laid.slice(1).map((_, i) => index + i),
      );
    this.send(lane, clips);
  }

  // Where a clip is put from where it meets: the later ones go along, or stay where they are.
  put(clips, clip, to) {
    const was = clips[clip].moved ?? { x: 0, z: 0, turn: 0, axes: "scene" },
      next = clips[clip + 1];
    if (to.x || to.z || to.turn) clips[clip].moved = to;
    else delete clips[clip].moved;
    if (!next || !document.getElementById("put-stay")?.checked) return;
    const plain = [was, to, next.moved ?? { axes: "scene", turn: 0 }].every((m) => m.axes === "scene") && was.turn === to.turn;
    if (!plain) {
      toast("Later clips stay only where a clip is moved without a turn, along the scene's axes");
      return;
    }
    const own = next.moved ?? { x: 0, z: 0, turn: 0, axes: "scene" };
    next.moved = { ...own, x: own.x - (to.x - was.x), z: own.z - (to.z - was.z) };
  }

  // A clip of the library onto a track.
  lay(lane, index, card) {
    const clips = structuredClone(lane.clips),
      { node, start, end } = card.dataset,
      clip = { node: Number(node), start: Number(start ?? 0), overlap: "best" };
    if (end) clip.end = Number(end);
    clips.splice(index, 0, clip);
    if (!this.states.locked(lane.node)) this.choose(lane.node, index);
    this.send(lane, clips);
  }
}
