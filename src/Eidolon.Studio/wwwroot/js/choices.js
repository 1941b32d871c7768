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
});
