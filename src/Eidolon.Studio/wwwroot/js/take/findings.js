import { onKey } from "../app.js";
import { TakeSamples } from "../stage/samples.js";

const $ = (id) => document.getElementById(id);
const words = {
  correlation: "the markers around it",
  rigid: "segment mates",
  skeleton: "the solved skeleton",
  cycle: "another cycle of the take",
  spline: "a smooth curve",
};

// Findings, one after the other; each with its remedies, which are shown on the Stage and in the curves before one is taken.
export class Findings {
  constructor(page) {
    Object.assign(this, page);
    this.current = -1;
    this.gap = null;
    this.pair = null;
    $("part-findings")?.addEventListener("click", (e) => this.clicked(e));
    document.addEventListener("htmx:afterSwap", (e) => {
      if (e.detail.target?.id === "part-findings") this.current = -1;
    });
    this.state.addEventListener("parts", () => {
      this.current = -1;
      this.close();
    });
    onKey("N", () => this.go(this.current + 1));
    onKey("⇧N", () => this.go(this.current - 1));
    onKey("Y", () => this.yes());
    onKey("I", () => document.querySelector("#ignore:not(.e-hidden) input")?.focus());
    $("remedy")?.addEventListener("change", () => this.previewGap());
    $("take-it")?.addEventListener("click", () => this.takeGap());
    $("leave-it")?.addEventListener("click", () => this.close());
    $("remedy-swap")?.addEventListener("click", (e) => this.exchange(e.target.dataset.exchange));
    $("remedy-other")?.addEventListener("change", () => this.previewOther());
    $("take-other")?.addEventListener("click", () => this.takeOther());
    $("ignore")?.addEventListener("submit", (e) => {
      e.preventDefault();
      this.ignore();
    });
  }

  get list() {
    return [...document.querySelectorAll("#part-findings .e-finding")];
  }

  clicked(e) {
    const back = e.target.closest("[data-regard]");
    if (back) {
      this.state.send("Regard", { finding: back.dataset.regard });
      return;
    }
    const f = e.target.closest(".e-finding");
    if (f) this.go(this.list.indexOf(f));
  }

  go(i) {
    const list = this.list;
    if (!list.length) return;
    this.current = (i + list.length) % list.length;
    const f = list[this.current];
    list.forEach((x) => x.classList.toggle("sel", x === f));
    f.scrollIntoView({ block: "nearest" });
    this.clock.pause();
    this.clock.set((Number(f.dataset.start) + Number(f.dataset.end)) / 2);
    const marker = this.state.scene.markers.findIndex((m) => m.name === f.dataset.subject),
      other = this.state.scene.markers.findIndex((m) => m.name === f.dataset.other);
    this.stage.select(marker, other >= 0 ? [other] : []);
    this.stage.bringIntoView();
    document.dispatchEvent(new CustomEvent("e-finding", { detail: { ...f.dataset } }));
    if (marker >= 0) this.said(`${f.dataset.subject}, ${f.querySelector(".small")?.textContent ?? ""}`);
    if ($("remedy")) this.open(f, marker);
  }

  close() {
    for (const id of ["remedy", "remedy-swap", "remedy-other", "ignore"]) $(id)?.classList.add("e-hidden");
    this.gap = this.pair = this.other = null;
    this.stage.markers?.setProposal(null);
    this.curves.propose(0, null);
    this.stage.dirty = true;
  }

  async open(finding, marker) {
    this.close();
    this.finding = finding.dataset;
    $("ignore").classList.remove("e-hidden");
    const { kind } = finding.dataset;
    if ((kind === "gap" || kind === "missing") && marker >= 0) await this.openGap(finding);
    else if (kind === "swap") this.openSwap(finding);
    else await this.openOther(finding);
  }

  // ---- gaps: every way of filling with its expected error ----
  async openGap(finding) {
    const remedy = $("remedy"),
      gap = {
        marker: finding.dataset.subject,
        frame: Number(finding.dataset.start),
        length: finding.dataset.end - finding.dataset.start + 1,
      };
    this.gap = gap;
    remedy.classList.remove("e-hidden");
    $("remedy-name").textContent = gap.marker;
    $("remedy-said").textContent = "Trying every way on stretches that are seen …";
    remedy.querySelectorAll("[data-error]").forEach((o) => {
      o.textContent = "…";
    });
    const answer = await (
      await fetch(`${this.state.api}/proposals?${new URLSearchParams({ marker: gap.marker, frame: gap.frame })}`)
    ).json();
    if (this.gap !== gap) return;
    this.proposals = answer.proposals ?? [];
    this.start = answer.start;
    // The gap with as much again on either side, so that it can be judged.
    const around = Math.max(60, gap.length);
    this.lanes.show(gap.frame - around, gap.frame + gap.length + around);
    for (const row of remedy.querySelectorAll("[data-method]")) {
      const p = this.proposals.find((x) => x.method === row.dataset.method),
        input = row.querySelector("input");
      input.disabled = !p;
      input.checked = p !== undefined && p === this.proposals[0];
      row.querySelector("[data-error]").textContent = !p ? "not here" : p.expected === null ? "not known" : `${p.expected.toFixed(1)} mm`;
    }
    $("take-it").disabled = this.proposals.length === 0;
    if (answer.error) $("remedy-said").textContent = answer.error;
    else this.previewGap();
  }

  get method() {
    return $("remedy").querySelector('input[name="method"]:checked')?.value;
  }

  previewGap() {
    const p = this.proposals?.find((x) => x.method === this.method);
    if (!this.gap || !p) return;
    $("remedy-said").textContent = `Proposed from ${words[p.method]}; shown dashed on the Stage, not kept yet.`;
    this.stage.markers.setProposal(p.points);
    this.curves.propose(this.start, p.points, p.method === "spline" ? null : this.proposals.find((x) => x.method === "spline")?.points);
    this.stage.dirty = true;
  }

  takeGap() {
    if (!this.gap || !this.method) return;
    const { length, marker, frame } = this.gap,
      ends = this.method === "skeleton" ? { ends: "skeleton" } : {};
    this.run("fill", { method: this.method, longest: length, marker, frame, ...ends });
  }

  // ---- two that traded places: exchanged from the frame on, before it, or between the marks ----
  openSwap(finding) {
    const swap = $("remedy-swap");
    swap.classList.remove("e-hidden");
    this.pair = { a: finding.dataset.subject, b: finding.dataset.other, frame: Number(finding.dataset.start) };
    swap.querySelector("[data-a]").textContent = this.pair.a;
    swap.querySelector("[data-b]").textContent = this.pair.b;
  }

  exchange(where) {
    if (!where || !this.pair) return;
    const { a, b, frame } = this.pair,
      { clock } = this;
    const [from, to] = where === "end" ? [frame, clock.count - 1] : where === "start" ? [0, frame - 1] : [clock.inPoint, clock.outPoint];
    this.run("exchange", { a, b, from, to });
  }

  // ---- all others: what the core proposes, tried before it is kept ----
  async openOther(finding) {
    const box = $("remedy-other"),
      { kind, subject, other, start, end } = finding.dataset;
    const asked = (this.other = { start: Number(start), end: Number(end), subject });
    const list = await (
      await fetch(`${this.state.api}/remedies?${new URLSearchParams({ kind, subject, other, start, end })}`)
    ).json();
    if (this.other !== asked || !list.length) return;
    asked.list = list;
    box.classList.remove("e-hidden");
    box.querySelector("[role=radiogroup]").replaceChildren(
      ...list.map((r, i) => {
        const label = document.createElement("label");
        label.className = "rem";
        label.innerHTML = '<input type="radio" name="other"><span></span>';
        label.querySelector("input").value = i;
        label.querySelector("input").checked = i === 0;
        label.querySelector("span").textContent = r.words;
        return label;
      }),
    );
    const around = Math.max(60, asked.end - asked.start);
    this.lanes.show(asked.start - around, asked.end + around);
    await this.previewOther();
  }

  get chosen() {
    return this.other?.list?.[Number($("remedy-other").querySelector('input[name="other"]:checked')?.value ?? 0)];
  }

  async previewOther() {
    const chosen = this.chosen,
      asked = this.other;
    if (!chosen) return;
    if (chosen.operation === "solve") {
      $("other-said").textContent = "The take is solved anew; from its frame on the marker hangs where it went.";
      return;
    }
    const r = await fetch(
      `${this.state.api}/preview?${new URLSearchParams({ operation: chosen.operation, parameters: JSON.stringify(chosen.parameters) })}`,
    );
    if (this.other !== asked || this.chosen !== chosen) return;
    const said = $("other-said");
    if (!r.ok) {
      said.textContent = await r.text();
      return;
    }
    const after = this.state.samples.patched(await r.arrayBuffer()),
      marker = this.state.scene.markers.findIndex((m) => m.name === asked.subject);
    if (marker < 0 || !(after instanceof TakeSamples)) return;
    const [a, b] = [Math.max(0, asked.start - 20), Math.min(this.state.samples.frames, asked.end + 21)],
      path = [...after.columns[marker].subarray(a * 3, b * 3)];
    said.textContent = "Shown dashed, not kept yet.";
    this.stage.markers.setProposal(path.filter((_, k) => !Number.isNaN(path[k])));
    this.curves.propose(a, path);
    this.stage.dirty = true;
  }

  takeOther() {
    const chosen = this.chosen;
    if (chosen) this.run(chosen.operation, chosen.parameters);
  }

  yes() {
    const open = (id) => $(id) && !$(id).classList.contains("e-hidden");
    if (open("remedy")) this.takeGap();
    else if (open("remedy-swap")) this.exchange("end");
    else if (open("remedy-other")) this.takeOther();
  }

  ignore() {
    const field = $("ignore").querySelector("input"),
      { kind, subject, start, end } = this.finding;
    this.state.send("Ignore", { kind, subject, start, end, reason: field.value });
    field.value = "";
  }
}
