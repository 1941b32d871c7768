// Of each track: mute (its figure is not on the Stage), solo (only it is), lock (no hand changes it). Kept on this machine, a scene each; what is handed off
// is the whole scene all the same.
export class TrackStates {
  constructor(page) {
    this.page = page;
    this.key = "track-states:" + document.getElementById("main").dataset.scene;
    this.of = JSON.parse(localStorage.getItem(this.key) ?? "{}");
    document.addEventListener("click", (e) => {
      const b = e.target.closest("[data-track-is]");
      if (b) this.toggle(b.closest("[data-track]").dataset.track, b.dataset.trackIs);
    });
    page.state.addEventListener("parts", () => this.show());
    this.show();
  }

  locked(node) {
    return !!this.of[node]?.lock;
  }

  toggle(node, what) {
    const now = (this.of[node] ??= {});
    now[what] = !now[what];
    localStorage.setItem(this.key, JSON.stringify(this.of));
    this.show();
  }

  show() {
    const alone = Object.values(this.of).some((s) => s.solo),
      seen = (node) => (alone ? !!this.of[node]?.solo : !this.of[node]?.mute);
    for (const b of document.querySelectorAll("[data-track-is]")) {
      const on = !!this.of[b.closest("[data-track]").dataset.track]?.[b.dataset.trackIs];
      b.classList.toggle("on", on);
      b.setAttribute("aria-pressed", on);
    }
    for (const figure of this.page.stage.figures) figure.group.visible = seen(figure.info.node);
    for (const prop of this.page.stage.props) {
      prop.hidden = !seen(prop.info.node);
      prop.update(this.page.stage.frame);
    }
    for (const lane of this.page.lanes.lanes) if (lane.kind === "track") lane.locked = this.locked(lane.node);
    this.page.lanes.draw();
    this.page.stage.dirty = true;
  }
}
