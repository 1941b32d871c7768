import { onKey } from "../app.js";
import { Trying } from "./trying.js";

const $ = (id) => document.getElementById(id);
const other = (role) => (role.endsWith("L") ? role.slice(0, -1) + "R" : role.endsWith("R") ? role.slice(0, -1) + "L" : role);

// What a character is held to: while a control moves, the server answers the pose at the current frame; when the hand lets go, one entry is written.
export class HoldControls {
  constructor(page) {
    Object.assign(this, page);
    this.form = $("retarget-form");
    this.cast = Number(this.form.dataset.cast);
    this.keys = JSON.parse(this.form.dataset.keys);
    this.offsets = JSON.parse(this.form.dataset.offsets);
    this.figure = this.stage.figures.find((f) => f.info.node === this.cast);
    this.both = $("hold-both");
    this.both.checked = localStorage.getItem("hold-both") !== "no";
    this.both.addEventListener("change", () => localStorage.setItem("hold-both", this.both.checked ? "yes" : "no"));
    this.listen();
    this.follow();
    this.fill();
    if (!this.figure) return;
    this.trying = new Trying(
      (answer) => this.show(answer),
      (words) => this.said(words),
    );
    window.eidolon.hold = this;
  }

  get connection() {
    return this.trying.connection;
  }

  listen() {
    for (const control of this.form.querySelectorAll("input[type=range]")) {
      control.addEventListener("input", () => this.moved(control));
      control.addEventListener("change", () => this.letGo());
    }
    for (const control of this.form.querySelectorAll("[name=feetFlat], [name=floorMillimetres], [data-copy]"))
      control.addEventListener("change", () => this.letGo());
    for (const radio of this.radios()) radio.addEventListener("change", () => this.letGo());
    for (const cell of this.form.querySelectorAll(".e-holding[data-role]"))
      cell.addEventListener("focusin", () => this.choose(cell.dataset.role));
    this.form.querySelector("[data-key-add]").addEventListener("click", () => this.addKey());
    for (const field of this.form.querySelectorAll("[data-offset]")) field.addEventListener("change", () => this.moveBy());
    this.clock.addEventListener("frame", () => this.follow());
    onKey("A", () => this.chosen && this.addKey());
  }

  radios() {
    return [...document.querySelectorAll('[name=travel][form="retarget-form"]')];
  }

  // Where keys change a Hold over time its sliders show what holds at the playhead.
  follow() {
    for (const [role, keys] of Object.entries(this.keys))
      for (const group of ["place", "turn"]) {
        const control = this.form.querySelector(`[name="${group}.${role}"]`);
        if (control) control.value = at(keys, group, this.clock.frame);
      }
    this.say();
  }

  say() {
    for (const s of this.form.querySelectorAll("input[type=range]"))
      this.form.querySelector(`output[for="${s.id}"]`).textContent = s.value;
  }

  value(group, role) {
    const control = this.form.querySelector(`[name="${group}.${role}"]`);
    return control ? Number(control.value) : 100;
  }

  parameters() {
    const read = (group) =>
      Object.fromEntries(
        [...this.form.querySelectorAll(`[name^="${group}."]`)].map((s) => [s.name.slice(group.length + 1), Number(s.value)]),
      );
    const chosen = this.radios().find((r) => r.checked);
    return {
      travel: chosen?.value ?? "scaled",
      place: read("place"),
      turn: read("turn"),
      lean: Number(this.form.querySelector("[name=lean]").value),
      floor: Number(this.form.querySelector("[name=floorMillimetres]").value) / 1000,
      spine: Number(this.form.querySelector("[name=spine]").value),
      shoulder: Number(this.form.querySelector("[name=shoulder]").value),
      twist: Number(this.form.querySelector("[name=twist]").value),
      copyBones: [...this.form.querySelectorAll("[data-copy]:checked")].flatMap((c) => c.dataset.copy.split(",")),
      feetFlat: this.form.querySelector("[name=feetFlat]").checked,
      offset: this.offsets,
      keys: this.keys,
    };
  }

  fill() {
    this.form.querySelector("[name=parameters]").value = JSON.stringify(this.parameters());
  }

  moved(control) {
    const [group, role] = control.name.split(".");
    const pair = role && this.both.checked && this.form.querySelector(`[name="${group}.${other(role)}"]`);
    if (pair) pair.value = control.value;
    this.say();
    for (const r of role ? [role, pair ? other(role) : role] : []) if (this.keys[r]) this.key(r);
    this.trying?.ask("Pose", Number(this.state.scene.id), this.cast, this.clock.frame, JSON.stringify(this.parameters()));
  }

  show(answer) {
    const pose = answer.Pose ?? answer.pose,
      drift = answer.Drift ?? answer.drift;
    this.figure.hold(new Float32Array(pose.slice().buffer));
    this.form.querySelector("[data-drift-when]").textContent = "now";
    for (const [role, mm] of Object.entries(drift)) {
      const number = this.form.querySelector(`[data-drift="${role}"]`);
      if (number) number.textContent = `${mm < 10 ? mm.toFixed(1) : Math.round(mm)} mm`;
    }
    this.stage.dirty = true;
  }

  letGo() {
    this.fill();
    this.trying?.done();
    this.run("retarget", this.parameters(), this.cast);
  }

  // The part that keys and offsets are for.
  choose(role) {
    this.chosen = role;
    for (const cell of this.form.querySelectorAll(".e-holding")) cell.classList.toggle("sel", cell.dataset.role === role);
    const box = $("hold-part");
    box.hidden = false;
    box.scrollIntoView({ block: "nearest" });
    const name = this.form.querySelector(`[data-choose="${role}"] b`).textContent,
      side = other(role) === role ? "" : role.endsWith("L") ? "Left " : "Right ";
    box.querySelector("[data-part-name]").textContent = side ? side + name.toLowerCase() : name;
    for (const field of box.querySelectorAll("[data-offset]")) field.value = this.offsets[role]?.[Number(field.dataset.offset)] ?? 0;
    const keys = this.keys[role] ?? [];
    box.querySelector("[data-part-keys]").replaceChildren(
      ...(keys.length ? keys.map((k) => this.chip(role, k)) : [note("Held alike all through. Keys change it over time.")]),
    );
  }

  chip(role, key) {
    const chip = document.createElement("button");
    chip.type = "button";
    chip.className = "e-chip n";
    chip.textContent = `${key.frame}: ${key.place}${"turn" in key && key.turn !== 100 ? ` · ${key.turn}` : ""} ×`;
    chip.title = "Take this key away";
    chip.addEventListener("click", () => {
      this.keys[role] = this.keys[role].filter((k) => k !== key);
      if (!this.keys[role].length) delete this.keys[role];
      this.choose(role);
      this.letGo();
    });
    return chip;
  }

  addKey() {
    const roles = this.both.checked && other(this.chosen) !== this.chosen ? [this.chosen, other(this.chosen)] : [this.chosen];
    for (const role of roles) this.key(role);
    this.choose(this.chosen);
    this.letGo();
  }

  // Place and Turn as the sliders have them, at the playhead.
  key(role) {
    const key = { frame: this.clock.frame, place: this.value("place", role), turn: this.value("turn", role) };
    const rest = (this.keys[role] ?? []).filter((k) => k.frame !== key.frame);
    this.keys[role] = [...rest, key].sort((a, b) => a.frame - b.frame);
    if (role === this.chosen) this.choose(role);
  }

  moveBy() {
    if (!this.chosen) return;
    const fields = [...this.form.querySelectorAll("[data-offset]")].map((f) => Math.min(1000, Math.max(-1000, Number(f.value) || 0)));
    if (fields.some((x) => x)) this.offsets[this.chosen] = fields;
    else delete this.offsets[this.chosen];
    this.letGo();
  }
}

// The same as the server has it: rest at both keys, the nearest key outside.
function at(keys, group, frame) {
  const value = (k) => k[group] ?? 100,
    next = keys.findIndex((k) => k.frame > frame);
  if (next <= 0) return value(keys[next < 0 ? keys.length - 1 : 0]);
  const [a, b] = [keys[next - 1], keys[next]],
    t = (frame - a.frame) / (b.frame - a.frame);
  return value(a) + (value(b) - value(a)) * t * t * (3 - 2 * t);
}

function note(words) {
  const p = document.createElement("p");
  p.className = "small dim";
  p.textContent = words;
  return p;
}
