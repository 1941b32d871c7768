import { onKey } from "../app.js";

// Notes at frames: one is written down at the playhead, marked over the lanes, and looked up again with a click.
export class Notes {
  constructor({ clock, lanes }, part) {
    Object.assign(this, { clock, lanes, part });
    part.addEventListener("click", (e) => {
      const jot = e.target.closest(".e-jot");
      if (jot) clock.set(Number(jot.closest("[data-jot]").dataset.jot));
    });
    document.addEventListener("htmx:afterSwap", (e) => {
      if (e.detail.target === part) this.shown();
    });
    // What is written belongs to the frame that one was looking at when the writing began.
    part.addEventListener("focusin", (e) => {
      if (e.target.id === "jot") clock.pause();
    });
    clock.addEventListener("frame", () => this.at());
    onKey("J", () => document.getElementById("jot")?.focus());
    this.shown();
  }

  // Of those that were not trimmed off.
  get jots() {
    return [...this.part.querySelectorAll("[data-jot]")].map((n) => [n, Number(n.dataset.jot)]);
  }

  shown() {
    this.lanes.marks = this.jots.map(([, frame]) => frame);
    this.lanes.draw();
    this.at();
  }

  at() {
    const form = document.getElementById("jot-form"),
      frame = this.clock.frame;
    form.elements.frame.value = frame + Number(form.dataset.first);
    form.querySelector("[data-jot-at]").textContent = frame;
    for (const [n, f] of this.jots) n.classList.toggle("here", f === frame);
  }
}
