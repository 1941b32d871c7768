// Small view state, in Alpine components (its CSP build: no code in markup).
document.addEventListener("alpine:init", () => {
  Alpine.data("layer", () => ({
    joint: "HandR",
    x: 0,
    y: 0,
    z: 0,
    weight: 100,
    keys: [],
    get empty() {
      return this.keys.length === 0;
    },
    init() {
      this.$el.addEventListener("e-add-key", () => this.addKey());
      this.$el.addEventListener("e-add-release", () => this.addRelease());
    },
    frame() {
      return Number(document.querySelector("#lanes .frame b")?.textContent ?? 0);
    },
    put(key) {
      this.keys = [...this.keys.filter((k) => k.frame !== key.frame), key].sort((a, b) => a.frame - b.frame);
    },
    addKey() {
      const [x, y, z] = [this.x, this.y, this.z].map((v) => Number(v) || 0);
      this.put({ frame: this.frame(), x, y, z, release: false, words: `${x}°, ${y}°, ${z}°` });
    },
    addRelease() {
      this.put({ frame: this.frame(), x: 0, y: 0, z: 0, release: true, words: "lets go" });
    },
    remove(key) {
      this.keys = this.keys.filter((k) => k.frame !== key.frame);
    },
    keep() {
      if (this.keys.length === 0) return;
      const keys = this.keys.map(({ frame, x, y, z, release }) => ({ frame, x, y, z, release }));
      document.dispatchEvent(
        new CustomEvent("e-run", {
          detail: {
            operation: "layer",
            parameters: { joint: this.joint, weight: this.weight / 100, keys },
            node: this.$el.closest("[data-node]")?.dataset.node,
          },
        }),
      );
    },
  }));
  // By whose hands a prop goes: who leads stands first.
  Alpine.data("attaching", () => ({
    hands: [],
    left: 0,
    up: 0,
    ahead: 0,
    next: 0,
    init() {
      const said = JSON.parse(this.$el.dataset.hands),
        drift = JSON.parse(this.$el.dataset.drift);
      [this.left, this.up, this.ahead] = said.offset ?? [0, 0, 0];
      this.turn = said.turn;
      this.hands = (said.hands ?? []).map((h, i) => this.row(h, drift[i]));
    },
    row({ cast, hand, start, end, stays = false }, drift) {
      return { id: this.next++, who: `${cast} ${hand}`, start, end, stays, off: drift ? `${Math.round(drift.millimetres)} mm` : "" };
    },
    add() {
      const clock = window.eidolon.clock,
        last = this.hands[this.hands.length - 1],
        [cast, hand] = (last?.who ?? this.$el.closest("form").querySelector("option")?.value ?? " HandR").split(" ");
      this.hands.push(this.row({ cast, hand: hand === "HandR" && last ? "HandL" : "HandR", start: clock.frame, end: clock.count - 1 }));
    },
    remove(h) {
      this.hands = this.hands.filter((o) => o.id !== h.id);
    },
    lead(h) {
      this.hands = [h, ...this.hands.filter((o) => o.id !== h.id)];
    },
    letGo() {
      window.eidolon.state.send("Remove", { row: this.$el.dataset.letGo });
    },
    keep() {
      const hands = this.hands.map((h) => {
          const [cast, hand] = h.who.split(" ");
          return { cast: Number(cast), hand, start: Number(h.start), end: Number(h.end), stays: h.stays };
        }),
        parameters = { hands, offset: [this.left, this.up, this.ahead].map((v) => Number(v) || 0) };
      if (this.turn) parameters.turn = this.turn;
      const node = this.$el.closest("[data-node]").dataset.node;
      document.dispatchEvent(new CustomEvent("e-run", { detail: { operation: "attach", parameters, node } }));
    },
  }));
});
