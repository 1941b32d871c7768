import { onKey, toast } from "../app.js";

const $ = (id) => document.getElementById(id);

// Names by hand: pick a name, click its dot; the next name of the order comes by itself. What is clicked is on the screen at once.
export class Labels {
  constructor(page) {
    Object.assign(this, page);
    this.key = `name:${this.state.api}`;
    this.chosen = sessionStorage.getItem(this.key) ?? "";
    $("part-left").addEventListener("click", (e) => {
      const b = e.target.closest("[data-name]");
      if (b) this.choose(b.dataset.name === this.chosen ? "" : b.dataset.name);
    });
    $("part-left").addEventListener("click", (e) => {
      const b = e.target.closest("[data-who]");
      if (b) {
        this.who = b.dataset.who;
        this.show();
      }
    });
    $("part-left").addEventListener("change", (e) => {
      if (e.target.id === "order") this.ordered(e.target.value);
    });
    this.stage.addEventListener("pick", (e) => this.picked(e.detail));
    this.stage.addEventListener("hover", (e) => this.hovered(e.detail));
    this.state.addEventListener("parts", () => this.show());
    this.clock.addEventListener("frame", () => this.missing());
    document.addEventListener("click", (e) => {
      if (e.target.closest("#take-off")) this.off();
    });
    $("l-marks")?.addEventListener("click", () => {
      const form = $("l-marks").closest("form");
      form.querySelector("[data-in]").value = this.clock.inPoint;
      form.querySelector("[data-out]").value = this.clock.outPoint;
    });
    $("part-scraps")?.addEventListener("click", (e) => this.scrap(e.target.closest("[data-do]")));
    $("correct")?.addEventListener("toggle", (e) => {
      if (e.target.open) this.takeOver();
    });
    onKey("X", () => this.off());
    onKey("P", () => {
      const m = this.stage.markers.selected;
      if (m < 0) toast("Select a dot first: click it or press D");
      else this.name(m, this.chosen || this.scene.markers[m].name);
    });
    onKey("D", () => this.nextDot(1));
    onKey("⇧D", () => this.nextDot(-1));
    onKey("M", () => this.stepName(1));
    onKey("⇧M", () => this.stepName(-1));
    onKey("Escape", () => this.choose(""));
    onKey("S", () => this.suggest());
    this.show();
  }

  get scene() {
    return this.state.scene;
  }

  get order() {
    return [...document.querySelectorAll("#names [data-name]")].sort((a, b) => a.dataset.rank - b.dataset.rank).map((b) => b.dataset.name);
  }

  // Which order names come in is remembered on this machine.
  ordered(kind) {
    localStorage.setItem("e-choice:order", kind);
    document.querySelectorAll("#names [data-name]").forEach((b) => {
      b.dataset.rank = b.dataset[kind];
    });
  }

  show() {
    const kept = localStorage.getItem("e-choice:order");
    if (kept && $("order")) {
      $("order").value = kept;
      this.ordered(kept);
    }
    const people = [...document.querySelectorAll("#part-left [data-who]")],
      who = this.who ?? people[0]?.dataset.who;
    people.forEach((b) => {
      b.classList.toggle("on", b.dataset.who === who);
      b.setAttribute("aria-pressed", b.dataset.who === who);
    });
    if (people.length)
      document.querySelectorAll("#part-left [data-of]").forEach((x) => x.classList.toggle("e-hidden", x.dataset.of !== who));
    document.querySelectorAll("#part-left [data-name]").forEach((b) => {
      const on = b.dataset.name === this.chosen;
      b.classList.toggle("sel", on);
      if (b.getAttribute("role") === "option") b.setAttribute("aria-selected", on);
    });
    this.missing();
  }

  choose(name) {
    this.chosen = name;
    if (name.includes(":")) this.who = name.split(":")[0];
    sessionStorage.setItem(this.key, name);
    this.show();
    if (!name) {
      this.said("");
      return;
    }
    const list = $("names"),
      b = list.querySelector(`[data-name="${CSS.escape(name)}"]`);
    // Only the list itself scrolls: the figure above stays.
    if (b && (b.offsetTop < list.scrollTop || b.offsetTop + b.offsetHeight > list.scrollTop + list.clientHeight))
      list.scrollTop = b.offsetTop - list.clientHeight / 2;
    this.said(`Click the dot for ${name}`);
    this.stage.select(this.scene.markers.findIndex((m) => m.name === name));
  }

  stepName(by) {
    const order = this.order,
      i = order.indexOf(this.chosen);
    this.choose(order[(i + by + order.length) % order.length]);
  }

  // Dots one after the other from the keyboard: nameless ones first.
  nextDot(by) {
    const { markers } = this.stage,
      seen = this.scene.markers.map((m, i) => [m, i]).filter(([, i]) => markers.seen(this.clock.frame, i));
    const list = [...seen.filter(([m]) => !m.named), ...seen.filter(([m]) => m.named)].map(([, i]) => i);
    if (!list.length) return;
    const at = list.indexOf(markers.selected),
      next = list[(at + by + list.length) % list.length];
    this.stage.select(next);
    this.said(this.scene.markers[next].name);
    this.suggest();
  }

  picked({ marker, more }) {
    if (this.chosen && marker >= 0 && !more) {
      this.name(marker, this.chosen);
      return;
    }
    const old = this.stage.markers.selected;
    this.stage.select(marker, more && old >= 0 ? [old, ...this.stage.markers.also] : []);
    this.said(marker >= 0 ? this.scene.markers[marker].name : "");
  }

  // The dot has its name on the screen now; the server's answer follows.
  name(marker, text) {
    const dot = this.scene.markers[marker].name;
    this.locally(marker, text);
    this.state.send("Name", { dot, name: text });
    if (text && text === this.chosen) {
      const then = $("step-by")?.value ?? "0",
        held = then.startsWith("hold"),
        step = Number(then.replace("hold", ""));
      if (!held) {
        const order = this.order;
        this.choose(order[order.indexOf(text) + 1] ?? "");
      }
      // Time goes on while the hand stays on the mouse; a held name is followed through the take.
      if (step > 0) this.clock.step(step);
    }
  }

  locally(marker, text) {
    const { scene, samples } = this.state,
      { markers } = scene,
      target = text ? markers.findIndex((m) => m.name === text) : -1,
      old = { ...markers[marker] };
    if (target === marker) return;
    if (target < 0) {
      const mirror = text.at(-1);
      this.state.locally(
        () =>
          Object.assign(
            markers[marker],
            text
              ? { name: text, named: true, side: mirror === "L" || mirror === "R" ? mirror : "C" }
              : { name: `${old.name} (off)`, named: false, side: "N" },
          ),
        () => Object.assign(markers[marker], old),
      );
      return;
    }
    const [dot, into] = [samples.columns[marker], samples.columns[target]],
      joined = into.slice(),
      left = new Float32Array(dot.length).fill(NaN);
    for (let k = 0; k < dot.length; k += 3) {
      if (Number.isNaN(dot[k])) continue;
      for (let a = k; a < k + 3; a++) {
        left[a] = into[a];
        joined[a] = dot[a];
      }
    }
    this.state.locally(
      () => {
        samples.columns[marker] = left;
        samples.columns[target] = joined;
      },
      () => {
        samples.columns[marker] = dot;
        samples.columns[target] = into;
      },
    );
    this.stage.select(target);
  }

  off() {
    const { selected, also } = this.stage.markers;
    if (selected < 0) {
      toast("Select a dot first");
      return;
    }
    for (const m of [selected, ...also]) if (this.scene.markers[m].named) this.name(m, "");
  }

  hovered({ marker }) {
    if (marker < 0) return;
    if (!this.chosen) this.said(this.scene.markers[marker].name);
    this.suggest(marker);
  }

  // The likeliest names of a dot, from where the named ones around it are.
  suggest(marker = this.stage.markers.selected) {
    clearTimeout(this.asking);
    if (marker < 0) return;
    this.asking = setTimeout(async () => {
      const dot = this.scene.markers[marker].name,
        list = await (
          await fetch(`${this.state.api}/suggestions?${new URLSearchParams({ dot, frame: this.clock.frame })}`)
        ).json();
      const box = $("suggestions");
      if (!box) return;
      box.replaceChildren(
        ...list.map((s) => {
          const b = document.createElement("button");
          b.type = "button";
          b.className = "btn btn-plain sm";
          b.textContent = `${s.name} ${(s.share * 100).toFixed(0)} %`;
          b.addEventListener("click", () =>
            this.name(
              this.scene.markers.findIndex((m) => m.name === dot),
              s.name,
            ),
          );
          return b;
        }),
      );
      $("suggested-dot").textContent = list.length ? dot : "Hover a dot";
    }, 90);
  }

  // Names that are not seen at this frame, on the figure and in the list.
  missing() {
    const at = new Map(this.scene.markers.map((m, i) => [m.name, i])),
      markers = this.stage.markers;
    if (!markers) return;
    let n = 0;
    document.querySelectorAll("#part-left [data-name]").forEach((b) => {
      const i = at.get(b.dataset.name),
        gone = i === undefined || !markers.seen(this.clock.frame, i);
      b.classList.toggle("gone", gone);
      if (gone && b.getAttribute("role") === "option") n++;
    });
    const said = $("missing-now");
    if (said) said.textContent = n ? `${n} missing now` : "all seen now";
  }

  // Nameless trajectories: gone to, joined to what is selected, or dropped.
  scrap(button) {
    if (!button) return;
    const { scrap, start } = button.closest("[data-scrap]").dataset,
      { selected } = this.stage.markers;
    if (button.dataset.do === "go") {
      this.clock.set(Number(start));
      this.stage.select(this.scene.markers.findIndex((m) => m.name === scrap));
      this.stage.bringIntoView();
      this.suggest();
    } else if (button.dataset.do === "discard") this.run("discard", { name: scrap });
    else if (selected >= 0 && this.scene.markers[selected].name !== scrap)
      this.run("join", { name: scrap, into: this.scene.markers[selected].name });
    else toast("Select the marker it belongs to first");
  }

  // Corrections take over what is selected and marked.
  takeOver() {
    const form = $("correct"),
      { clock } = this;
    form.querySelectorAll("[data-in]").forEach((i) => {
      i.value = clock.inPoint;
    });
    form.querySelectorAll("[data-out]").forEach((i) => {
      i.value = clock.outPoint;
    });
    form.querySelectorAll("[data-now]").forEach((i) => {
      i.value = Math.round(clock.frame);
    });
    const { selected } = this.stage.markers ?? {};
    if (selected >= 0)
      form.querySelectorAll("[data-selected]").forEach((i) => {
        i.value = this.scene.markers[selected].name;
      });
  }
}
