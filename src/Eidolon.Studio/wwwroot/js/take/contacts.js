import { onKey } from "../app.js";

// Contacts as blocks on their lanes: an edge is dragged, a click selects, Delete frees,
// dragging on an empty place plants. Every change is an entry of the Ledger.
export class Contacts {
  constructor(page) {
    Object.assign(this, page);
    this.surface = this.lanes.element.querySelector(".e-scrub");
    this.surface.addEventListener("pointerdown", (e) => this.down(e), { capture: true });
    this.surface.addEventListener("pointermove", (e) => this.moved(e), { capture: true });
    this.surface.addEventListener("pointerup", (e) => this.up(e), { capture: true });
    onKey("K", () => this.next(1));
    onKey("⇧K", () => this.next(-1));
    onKey(",", () => this.edge(0));
    onKey(".", () => this.edge(1));
    onKey("G", () => this.plant());
    document.addEventListener("submit", (e) => this.lock(e), { capture: true });
    document.addEventListener("keydown", (e) => {
      if ((e.key === "Delete" || e.key === "Backspace") && this.selected && !e.target.closest("input, textarea, select")) {
        e.preventDefault();
        this.free();
      }
    });
  }

  // From the keyboard: one contact after the other in time, its edges to the playhead, a new one between the marks.
  next(by) {
    const all = this.lanes.lanes
      .flatMap((lane, i) => (lane.contact ? lane.blocks.map((block) => ({ i, block })) : []))
      .sort((p, q) => p.block[0] - q.block[0] || p.i - q.i);
    if (!all.length) return;
    const at = all.findIndex((x) => x.block === this.selected?.block);
    this.selected = all[(at + by + all.length) % all.length];
    this.clock.pause();
    this.clock.set(this.selected.block[0]);
    this.show();
  }

  edge(end) {
    if (!this.selected) return;
    const { i, block } = this.selected,
      f = this.clock.frame,
      from = end ? block[0] : f,
      to = end ? f : block[1];
    if (from >= to) return;
    this.change(i, block, block, from, to);
  }

  plant() {
    const i = this.selected?.i ?? this.lanes.lanes.findIndex((l) => l.contact),
      lane = this.lanes.lanes[i];
    if (lane)
      this.keep(lane, this.selected?.block[2] ?? lane.contact.point, [
        { start: this.clock.inPoint, end: this.clock.outPoint, planted: true },
      ]);
  }

  // A whole foot, heel and toe, between two frames that were typed or marked.
  lock(e) {
    const form = e.target.closest("form[data-lock]");
    if (!form) return;
    e.preventDefault();
    e.stopPropagation();
    const of = (name) => Number(form.elements[name].value);
    this.run(
      "contacts",
      {
        point: "foot",
        side: e.submitter?.value || "L",
        edits: [{ start: of("from"), end: of("to"), planted: true }],
        first: Number(form.dataset.first),
      },
      Number(form.dataset.lock),
    );
  }

  // The entry goes to the performer whose lane it is; frames are told with the first frame they count from.
  keep(lane, point, edits) {
    const { node, first } = lane.contact;
    this.run("contacts", { point: point === "toes" ? "toe" : point, side: lane.side, edits, first }, node);
  }

  // A contact with other edges: what is cut off is free, what is new is planted.
  change(i, block, old, from, to) {
    const edits = [];
    if (from > old[0]) edits.push({ start: old[0], end: from - 1, planted: false });
    if (to < old[1]) edits.push({ start: to + 1, end: old[1], planted: false });
    if (from < old[0] || to > old[1]) edits.push({ start: from, end: to, planted: true });
    if (edits.length) this.keep(this.lanes.lanes[i], block[2], edits);
  }

  frame(e) {
    const box = this.surface.getBoundingClientRect();
    return Math.round(this.lanes.from + ((e.clientX - box.left) / box.width) * (this.lanes.to - this.lanes.from));
  }

  lane(e) {
    const i = this.lanes.rowElements.findIndex((r) => {
      const b = r.getBoundingClientRect();
      return e.clientY >= b.top && e.clientY < b.bottom;
    });
    return this.lanes.lanes[i]?.contact ? i : -1;
  }

  near(e) {
    return Math.max(2, (6 / this.surface.clientWidth) * (this.lanes.to - this.lanes.from));
  }

  down(e) {
    const i = this.lane(e);
    this.selected = null;
    if (i < 0) {
      this.show();
      return;
    }
    const lane = this.lanes.lanes[i],
      f = this.frame(e),
      reach = this.near(e);
    // Toes are drawn in the lower half.
    const box = this.lanes.rowElements[i].getBoundingClientRect(),
      toes = e.clientY > box.top + box.height / 2;
    const own = [...lane.blocks].sort((p, q) => (q[2] === "toes") - (p[2] === "toes"));
    if (!toes) own.reverse();
    const edge = own.find(([a, b]) => Math.abs(f - a) <= reach || Math.abs(f - b) <= reach),
      inside = own.find(([a, b]) => f >= a && f <= b);
    if (edge) this.drag = { i, block: edge, old: [...edge], end: Math.abs(f - edge[1]) <= reach ? 1 : 0, point: edge[2] };
    else if (inside) {
      this.selected = { i, block: inside };
      this.show();
      return;
    } else if (e.altKey) this.drag = { i, start: f, block: [f, f, lane.contact.point, true], made: true };
    else {
      this.show();
      return;
    }
    // The scrubbing of time below must not see this one.
    e.stopImmediatePropagation();
    this.surface.setPointerCapture(e.pointerId);
    if (this.drag.made) lane.blocks.push(this.drag.block);
  }

  moved(e) {
    if (!this.drag) {
      this.surface.style.setProperty("cursor", this.lane(e) >= 0 ? "ew-resize" : "");
      return;
    }
    e.stopImmediatePropagation();
    const { block, end, made, start } = this.drag,
      f = Math.max(0, Math.min(this.clock.count - 1, this.frame(e)));
    if (made) {
      block[0] = Math.min(start, f);
      block[1] = Math.max(start, f);
    } else if (end) block[1] = Math.max(block[0] + 1, f);
    else block[0] = Math.min(block[1] - 1, f);
    this.clock.set(f);
    this.lanes.draw();
  }

  up(e) {
    const drag = this.drag;
    if (!drag) return;
    this.drag = null;
    e.stopImmediatePropagation();
    const { i, block, old, made } = drag,
      lane = this.lanes.lanes[i];
    if (!made) {
      this.change(i, block, old, block[0], block[1]);
      return;
    }
    if (block[1] - block[0] >= 2) {
      this.keep(lane, block[2], [{ start: block[0], end: block[1], planted: true }]);
      return;
    }
    lane.blocks.pop();
    this.lanes.draw();
  }

  free() {
    const { i, block } = this.selected;
    this.selected = null;
    this.keep(this.lanes.lanes[i], block[2], [{ start: block[0], end: block[1], planted: false }]);
  }

  show() {
    this.lanes.chosenBlock = this.selected?.block ?? null;
    this.lanes.draw();
    if (this.selected)
      this.said(
        `${this.selected.block[2]}, frames ${this.selected.block[0]} to ${this.selected.block[1]}: drag an edge (or , and . to the playhead), Delete frees it`,
      );
  }
}
