import { command } from "./connection.js";

const fmt = (v, digits = 0) => Number(v).toFixed(digits);

// The rack: one row a device, drawn from what the studio measured.
export class Rack {
  constructor(root) {
    this.rows = new Map([...root.querySelectorAll("[data-device]")].map((r) => [r.dataset.device, r]));
    for (const [stream, row] of this.rows) {
      row.querySelector("[data-power]")?.addEventListener("click", async () => {
        this.say(row, await command("StandIn", stream, row.dataset.on !== "yes"));
      });
      const cut = row.querySelector("[data-cut]");
      cut?.addEventListener("click", async () => {
        const on = cut.getAttribute("aria-pressed") !== "true";
        cut.setAttribute("aria-pressed", on);
        cut.textContent = on ? "Put in" : "Cut";
        await command("Cut", stream, on);
      });
    }
  }

  say(row, text) {
    if (text) row.querySelector("[data-error]").textContent = text;
  }

  show(devices) {
    for (const d of devices) {
      const row = this.rows.get(d.stream);
      if (!row) continue;
      const set = (key, text, look) => {
        const e = row.querySelector(`[data-${key}]`);
        e.textContent = text;
        e.classList.toggle("e-warn", !!look);
      };
      const cut = row.querySelector("[data-cut]")?.getAttribute("aria-pressed") === "true";
      row.dataset.on = d.connected || cut ? "yes" : "no";
      row.classList.toggle("off", !d.connected);
      row.querySelector("[data-mark]").className = `e-icon ${d.connected ? (d.lost || d.bad ? "i-warn" : "i-check") : "i-x"}`;
      set("rate", d.connected ? fmt(d.rate, 1) : "–");
      set("lost", d.lost, d.lost > 0);
      set("bad", d.bad, d.bad > 0);
      set("latency", d.connected ? `${fmt(d.latencyMilliseconds, 1)} ms` : "–");
      set(
        "battery",
        d.battery === null || d.battery === undefined ? (d.connected ? "mains" : "–") : `${d.battery} %`,
        d.battery !== null && d.battery < 15,
      );
      set("offset", d.connected ? `${d.offsetMilliseconds >= 0 ? "+" : "−"}${fmt(Math.abs(d.offsetMilliseconds))} ms` : "–");
      set("error", d.connected ? "" : d.lastError || "Nothing arriving.");
      const power = row.querySelector("[data-power]");
      if (power) {
        power.textContent = row.dataset.on === "yes" ? "Stop" : "Start";
        power.title = row.dataset.on === "yes" ? "Stop the stand-in" : "Start the stand-in";
      }
      this.draw(row.querySelector("canvas"), d);
    }
  }

  draw(canvas, d) {
    const w = canvas.clientWidth,
      h = 20;
    if (!w) return;
    if (canvas.width !== w) canvas.width = w;
    const g = canvas.getContext("2d"),
      style = getComputedStyle(document.documentElement),
      n = d.history.length;
    // Scaled to the middle of what was seen, so that one burst does not flatten the rest.
    const sorted = d.history
        .map(Math.abs)
        .filter((v) => v > 0)
        .sort((a, b) => a - b),
      most = Math.max(1, (sorted[Math.floor(sorted.length / 2)] ?? 1) * 1.25);
    g.clearRect(0, 0, w, h);
    d.history.forEach((v, i) => {
      g.fillStyle = style.getPropertyValue(v < 0 ? "--e-look" : "--e-text-3");
      const tall = v < 0 ? h : Math.max(1, Math.min(1, Math.abs(v) / most) * (h - 3));
      g.fillRect((i / n) * w, h - tall, Math.max(1.5, w / n - 1.5), tall);
    });
    g.fillStyle = style.getPropertyValue("--e-accent");
    g.fillRect(w - 2, 0, 2, h);
  }
}
