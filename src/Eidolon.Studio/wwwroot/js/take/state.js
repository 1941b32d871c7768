import { anew } from "../app.js";
import { TakeSamples } from "../stage/samples.js";

const token = document.querySelector('meta[name="antiforgery"]').content;
const piece = 4800;

const post = (handler, fields) =>
  fetch(`?handler=${handler}`, { method: "POST", headers: { "X-Antiforgery": token }, body: new URLSearchParams(fields) });

// Everybody and everything on the Stage, by body; and by length as well.
const bodies = (scene) => [...scene.figures, ...scene.props].map((f) => `${f.name} ${f.mesh ?? f.model} ${f.stretched ?? 0}`).join();
const who = (scene) => `${bodies(scene)} ${[...scene.figures, ...scene.props].map((f) => f.frames)}`;

// A take on its page: what is shown of its present state, kept in step with the server without loading the page anew.
export class TakeState extends EventTarget {
  constructor(api, step) {
    super();
    Object.assign(this, { api, step, samples: null, undoLocal: [], queue: Promise.resolve(), waiting: 0, loaded: 0 });
  }

  async open() {
    this.scene = await (await fetch(`${this.api}/scene?step=${this.step}`)).json();
  }

  // The frames around the playhead first: the page is there at once, the rest of a long take follows piece by piece.
  async load(around) {
    const { frameCount } = this.scene,
      count = this.scene.markers.length;
    this.samples = new TakeSamples(count, this.scene.markerFrames);
    if (!count) return;
    const frames = this.scene.markerFrames,
      first = Math.max(0, Math.min(frames - piece, Math.floor(around - piece / 2)));
    await this.piece(first, Math.min(frames, first + piece));
    this.rest = this.loadRest(first, Math.min(frames, first + piece), frames);
    if (frameCount <= 2 * piece) await this.rest;
  }

  async piece(from, to) {
    const state = this.scene.state,
      r = await fetch(`${this.api}/markers?state=${state}&from=${from}&to=${to}`);
    if (!r.ok) return;
    this.samples.load(from, new Float32Array(await r.arrayBuffer()));
    this.loaded += to - from;
    this.dispatchEvent(new CustomEvent("piece", { detail: { from, to } }));
  }

  async loadRest(first, last, frames) {
    for (let f = last; f < frames; f += piece) await this.piece(f, Math.min(frames, f + piece));
    for (let f = 0; f < first; f += piece) await this.piece(f, Math.min(first, f + piece));
    this.complete = true;
    this.dispatchEvent(new Event("complete"));
  }

  // What one did by hand is shown before the server has answered; the answer then takes its place.
  locally(change, back) {
    change();
    this.undoLocal.push(back);
    this.dispatchEvent(new Event("samples"));
  }

  // Sends a quick change; several in a row go one after the other, and only the last one asks what has come of them.
  send(handler, fields) {
    this.waiting++;
    const sent = this.queue.then(async () => {
      try {
        const r = await post(handler, { ...fields, seen: this.scene.revision }),
          text = await r.text();
        if (r.ok) {
          this.said = JSON.parse(text).summary;
          // Only what became an entry can be taken back from the Ledger.
          this.undoable = handler === "Name" || handler === "Do";
        } else this.dispatchEvent(new CustomEvent("refused", { detail: text }));
      } catch {
        this.dispatchEvent(new CustomEvent("refused", { detail: "The studio does not answer. Nothing was changed." }));
      } finally {
        this.waiting--;
      }
      if (this.waiting > 0) return;
      // Refused or not, what the server has is what is shown; without an answer at least nothing is shown that it may not have.
      try {
        await this.refresh();
      } catch {
        this.takeBackLocal();
        this.dispatchEvent(new Event("samples"));
      }
    });
    this.queue = sent.catch(() => {});
    return sent;
  }

  // The present state of the server: names, lanes and links anew, samples only where they differ.
  async refresh() {
    const old = this.scene,
      changes = this.samples ? fetch(`${this.api}/patch?since=${old.state}`) : null;
    const scene = await (await fetch(`${this.api}/scene?step=${this.step}`)).json();
    if (this.renew) {
      if (bodies(scene) !== bodies(old)) anew();
      else {
        await this.renew(scene);
        await this.told(scene);
      }
      return;
    }
    const moved = scene.figureState !== old.figureState;
    if (scene.frameCount !== old.frameCount || who(scene) !== who(old) || !this.samples || (moved && !this.exchange)) {
      anew();
      return;
    }
    // The same bodies move otherwise: only their motion is asked for, and the view and the lanes stay as they are.
    if (moved) await this.exchange(scene);
    if (scene.state !== old.state) {
      if (this.rest) await this.rest;
      const answer = await changes,
        patch = await answer.arrayBuffer();
      // The state went on between the two answers: what they say does not belong together.
      if (answer.headers.get("X-State") !== scene.state) {
        await this.refresh();
        return;
      }
      if (patch.byteLength === 0) {
        anew();
        return;
      }
      this.takeBackLocal();
      this.samples = this.samples.patched(patch);
    } else this.takeBackLocal();
    await this.told(scene);
  }

  // What the server has now is what the page says.
  async told(scene) {
    this.scene = scene;
    this.dispatchEvent(new Event("scene"));
    this.dispatchEvent(new Event("samples"));
    await this.parts();
    Object.assign(document.getElementById("main").dataset, { state: scene.page, revision: scene.revision, job: scene.job || "" });
    this.dispatchEvent(new CustomEvent("changed", { detail: { said: this.said, undoable: this.undoable } }));
    this.said = null;
    if (scene.job) await this.follow(scene.job);
  }

  // What follows from a change runs as a job: it is seen on the page, and what comes of it is shown when it is done.
  async follow(job) {
    const box = document.getElementById("job");
    if (!box || box.querySelector("progress")) return;
    await window.htmx.ajax("GET", `?handler=Job&job=${job}`, { target: box, swap: "innerHTML" });
    if (!box.querySelector("progress")) await this.refresh();
  }

  takeBackLocal() {
    while (this.undoLocal.length) this.undoLocal.pop()();
  }

  // Pieces of the page that depend on the state: htmx puts each in the place of the one with its name; what is open and where it is scrolled stays.
  async parts() {
    const here = [...document.querySelectorAll("[id^=part-]")],
      open = here.flatMap((p) => [...p.querySelectorAll("details[open]")].map((d) => d.id)).filter(Boolean),
      tops = here.map((p) => p.scrollTop);
    const track = new URLSearchParams(location.search).get("track") ?? "";
    await window.htmx.ajax("GET", `?handler=Parts&head=${this.compare ?? ""}&track=${track}`, { source: "#main", swap: "none" });
    open.forEach((id) => document.getElementById(id)?.setAttribute("open", ""));
    here.forEach((p, i) => {
      p.scrollTop = tops[i];
    });
    this.dispatchEvent(new Event("parts"));
  }
}
