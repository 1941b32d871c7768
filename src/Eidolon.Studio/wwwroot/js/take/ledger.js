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

  // What can be done at once goes without a new page and in its turn; the other forms are htmx's own.
  submitted(e) {
    const form = e.target;
    if (form.dataset.send !== "quick") return;
    e.preventDefault();
    this.state.send(form.dataset.handler, Object.fromEntries(new FormData(form)));
  }

  // What is out of date, brought up.
  bringUp() {
    $("bring-up")?.requestSubmit();
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
