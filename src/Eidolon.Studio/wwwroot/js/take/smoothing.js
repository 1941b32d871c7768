const $ = (id) => document.getElementById(id);

// What the cut-off would do to fast moves, as a strip of the take: energy before, and what is left of it.
export class Smoothing {
  constructor({ state, stage, clock, said }) {
    Object.assign(this, { state, stage, clock, said });
    const box = $("smoothing"),
      field = $("cutoff");
    if (!box) return;
    const ask = () => {
      clearTimeout(this.timer);
      if (box.open) this.timer = setTimeout(() => this.show(), 250);
    };
    box.addEventListener("toggle", ask);
    field.addEventListener("input", ask);
    state.addEventListener("changed", ask);
    $("softest").addEventListener("click", () => {
      if (this.strip) {
        clock.pause();
        clock.set(this.strip.softest);
      }
    });
    $("proposed-cutoff").addEventListener("click", () => {
      if (this.strip) {
        field.value = this.strip.proposed;
        field.dispatchEvent(new Event("change"));
        ask();
      }
    });
    this.only();
    $("trim-marks")?.addEventListener("click", () => {
      const form = $("trim").querySelector("form");
      form.querySelector("[data-in]").value = clock.inPoint;
      form.querySelector("[data-out]").value = clock.outPoint;
    });
  }

  // What is selected drives the tools: the marker, and for smoothing the range between the marks.
  only() {
    const box = $("only-selected"),
      form = box.closest("#tools");
    const set = () => {
      const { markers } = this.stage,
        on = box.checked && markers?.selected >= 0;
      form.querySelectorAll("[data-only], [data-only-from], [data-only-to]").forEach((i) => {
        i.disabled = !on;
      });
      $("only-name").textContent = markers?.selected >= 0 ? this.state.scene.markers[markers.selected].name : "the selected marker";
      if (!on) return;
      form.querySelectorAll("[data-only]").forEach((i) => {
        i.value = this.state.scene.markers[markers.selected].name;
      });
      form.querySelectorAll("[data-only-from]").forEach((i) => {
        i.value = this.clock.inPoint;
      });
      form.querySelectorAll("[data-only-to]").forEach((i) => {
        i.value = this.clock.outPoint;
      });
    };
    box.addEventListener("change", set);
    this.stage.addEventListener("select", set);
    this.clock.addEventListener("range", set);
    set();
  }

  async show() {
    const r = await fetch(`${this.state.api}/smoothing?cutoff=${encodeURIComponent($("cutoff").value)}`),
      text = $("energy-said");
    if (!r.ok) {
      text.textContent = await r.text();
      return;
    }
    const s = (this.strip = await r.json()),
      max = Math.max(...s.before, 1e-12),
      n = s.before.length;
    // Square roots: slow moves stay visible beside a strike.
    const path = (v) =>
      `M0 44 ${v.map((e, i) => `L${((i / Math.max(1, n - 1)) * 280).toFixed(1)} ${(43 - Math.sqrt(e / max) * 41).toFixed(1)}`).join(" ")} L280 44 Z`;
    document.querySelector(".e-energy .was").setAttribute("d", path(s.before));
    document.querySelector(".e-energy .is").setAttribute("d", path(s.after));
    text.textContent = `${(s.kept * 100).toFixed(1)} % of the energy is kept; softest around frame ${s.softest} ` +
      `with ${(s.softestKept * 100).toFixed(1)} %. Impacts are spared.`;
    $("proposed-cutoff").textContent = `Residual analysis: ${s.proposed.toFixed(0)} Hz`;
  }
}
