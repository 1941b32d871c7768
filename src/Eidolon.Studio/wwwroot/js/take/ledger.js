import { toast } from "../app.js";
import { post } from "./state.js";

const $ = (id) => document.getElementById(id);

// The Ledger: on and off, other parameters, another order, versions, and two of its heads side by side.
export class LedgerPanel {
  constructor(page) {
    Object.assign(this, page);
    const box = $("part-ledger");
    box.addEventListener("submit", (e) => this.submitted(e));
    box.addEventListener("change", (e) => {
      if (e.target.id === "compare") this.compare(e.target.value);
    });
    box.addEventListener("keydown", (e) => this.keyed(e));
    box.addEventListener("dragstart", (e) => {
      this.dragged = e.target.closest("[data-row]");
      e.dataTransfer.effectAllowed = "move";
    });
    box.addEventListener("dragover", (e) => {
      if (this.dragged && e.target.closest("[data-row]")) e.preventDefault();
    });
    box.addEventListener("drop", (e) => {
      e.preventDefault();
      this.move(this.dragged, e.target.closest("[data-row]"));
      this.dragged = null;
    });
    this.state.addEventListener("parts", () => this.shown());
    this.stage.addEventListener("select", () => this.rivals());
    this.state.addEventListener("changed", () => this.rivals());
  }

  // What can be done at once goes without a new page; the rest becomes a job that is followed under it.
  async submitted(e) {
    const form = e.target,
      kind = form.dataset.send;
    if (!kind) return;
    e.preventDefault();
    const fields = Object.fromEntries(new FormData(form));
    if (kind === "quick") {
      this.state.send(form.dataset.handler, fields);
      return;
    }
    if (form.dataset.handler === "Edit") {
      const parameters = {};
      for (const [k, v] of Object.entries(fields))
        if (k.startsWith("p.")) {
          parameters[k.slice(2)] = v.trim() !== "" && !Number.isNaN(Number(v)) ? Number(v) : v;
          delete fields[k];
        }
      fields.parameters = JSON.stringify(parameters);
    }
    await this.job(form.dataset.handler, fields);
  }

  // What is out of date, brought up.
  bringUp() {
    if ($("bring-up")) this.job("BringUp", {});
  }

  async job(handler, fields) {
    const r = await post(handler, { ...fields, seen: this.state.scene.revision });
    if (!r.ok) {
      toast("The studio does not answer. Nothing was changed.");
      return;
    }
    $("job").innerHTML = await r.text();
    window.htmx.process($("job"));
  }

  // An entry goes to another place by drag, or with Alt and an arrow.
  move(row, to) {
    if (row && to && row !== to) this.state.send("Move", { row: row.dataset.row, to: to.dataset.place });
  }

  keyed(e) {
    const row = e.target.closest("[data-row]");
    if (!row || !e.altKey || !["ArrowUp", "ArrowDown"].includes(e.key)) return;
    e.preventDefault();
    this.move(row, e.key === "ArrowUp" ? row.previousElementSibling?.closest("[data-row]") : row.nextElementSibling?.closest("[data-row]"));
  }

  shown() {
    const box = $("compare");
    if (box) box.value = this.state.compare ?? "";
  }

  // Another head: its numbers beside the present ones, its dots on the Stage, its path in the curves.
  async compare(head) {
    this.state.compare = head;
    await this.state.parts();
    await this.rivals();
  }

  async rivals() {
    const { state, stage, curves } = this,
      head = state.compare;
    if (!stage.markers) return;
    const chosen = [stage.markers.selected, ...stage.markers.also].filter((m) => m >= 0),
      wanted = head
        ? chosen.length
          ? chosen
          : state.scene.markers.length * state.samples.frames < 400000
            ? state.scene.markers.map((_, i) => i)
            : []
        : [];
    const asked = (this.asked = {});
    const paths = await Promise.all(
      wanted.map(async (m) => [
        m,
        new Float32Array(
          await (
            await fetch(`${state.api}/path?${new URLSearchParams({ head, marker: state.scene.markers[m].name })}`)
          ).arrayBuffer(),
        ),
      ]),
    );
    if (this.asked !== asked) return;
    const found = paths.filter(([, p]) => p.length === state.samples.frames * 3);
    stage.markers.setRival(found);
    curves.setRival(new Map(found));
    stage.dirty = true;
  }
}
