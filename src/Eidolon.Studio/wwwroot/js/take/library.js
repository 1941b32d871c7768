// The library: clips found by name and by what they do, dragged onto a track or laid after its last clip with Enter.
export class Library {
  constructor(tracks, scene) {
    Object.assign(this, { tracks, scene, words: {}, held: null });
    this.box = document.getElementById("clips");
    const scrub = document.querySelector(".e-scrub");
    this.box.addEventListener("dragstart", (e) => {
      this.held = e.target.closest(".e-clip[draggable]");
      if (!this.held) return;
      e.dataTransfer.setData("text/plain", this.held.dataset.node);
      e.dataTransfer.effectAllowed = "copy";
    });
    this.box.addEventListener("keydown", (e) => {
      const card = e.target.closest(".e-clip"),
        lane = card && tracks.lane(Number(card.dataset.track));
      if (e.key === "Enter" && e.target === card && lane) tracks.lay(lane, lane.clips.length, card);
    });
    this.find = document.getElementById("find-clip");
    this.find?.addEventListener("input", () => this.filter());
    scrub.addEventListener("dragover", (e) => {
      const to = this.place(e);
      this.clear();
      if (!to) return;
      e.preventDefault();
      to.lane.drop = to.index === 0 ? 0 : to.lane.blocks[to.index - 1][1];
      tracks.lanes.draw();
    });
    scrub.addEventListener("dragleave", () => this.clear());
    scrub.addEventListener("drop", (e) => {
      const to = this.place(e);
      this.clear();
      if (!to) return;
      e.preventDefault();
      tracks.lay(to.lane, to.index, this.held);
    });
    // The server writes the cards anew after every change.
    tracks.page.state.addEventListener("changed", () => this.describe());
    this.describe();
  }

  get cards() {
    return [...this.box.querySelectorAll(".e-clip")];
  }

  // What each clip does, asked for once.
  async describe() {
    const unknown = this.cards.map((c) => c.dataset.key).filter((k) => !(k in this.words));
    try {
      if (unknown.length) Object.assign(this.words, await (await fetch(`/api/scenes/${this.scene}/words?nodes=${unknown.join()}`)).json());
    } catch {
      // Words are a help; without them the cards still say their names.
    }
    for (const c of this.cards) {
      const words = this.words[c.dataset.key] ?? "",
        place = c.querySelector("[data-words]");
      if (!words || place.textContent) continue;
      place.textContent = words;
      c.title = `${words}. ${c.title}`;
    }
    this.filter();
  }

  filter() {
    const wish = (this.find?.value ?? "").trim().toLowerCase().split(/\s+/);
    for (const c of this.cards) c.hidden = !wish.every((w) => c.textContent.toLowerCase().includes(w));
  }

  place(e) {
    const at = this.tracks.lanes.under(e),
      lane = at.lane?.kind === "track" && at.lane.node === Number(this.held?.dataset.track) ? at.lane : null;
    return lane ? { lane, index: lane.blocks.filter(([a, b]) => (a + b) / 2 < at.frame).length } : null;
  }

  clear() {
    for (const l of this.tracks.tracks) delete l.drop;
    this.tracks.lanes.draw();
  }
}
