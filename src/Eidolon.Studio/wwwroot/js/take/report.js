import { token } from "../token.js";

// Pictures for the report: the Stage as it is looked at, where notes were written, at the worst Findings and at even moments of the take.
const wide = 640;

function shrunk(canvas) {
  const small = document.createElement("canvas");
  small.width = wide;
  small.height = Math.round((wide * canvas.height) / canvas.width);
  const g = small.getContext("2d");
  g.fillStyle = token("stage-floor");
  g.fillRect(0, 0, small.width, small.height);
  g.drawImage(canvas, 0, 0, small.width, small.height);
  return small.toDataURL("image/jpeg", 0.82);
}

export function reporting({ stage, clock }, link) {
  link.addEventListener("click", async (e) => {
    e.preventDefault();
    link.setAttribute("aria-busy", "true");
    clock.pause();
    const back = clock.frame,
      jotted = [...document.querySelectorAll("[data-jot]")].map((n) => Number(n.dataset.jot)),
      worst = [...document.querySelectorAll("#findings .e-finding")].slice(0, 2).map((f) => Math.round((+f.dataset.start + +f.dataset.end) / 2)),
      even = [1, 3, 5].map((k) => Math.round((k * (clock.count - 1)) / 6)),
      pictures = [];
    for (const frame of [...new Set([...jotted.slice(0, 4), ...worst, ...even])].slice(0, Math.max(4, Math.min(4, jotted.length) + 2)).sort((a, b) => a - b)) {
      const drawn = new Promise((r) => stage.addEventListener("drawn", r, { once: true }));
      clock.set(frame);
      stage.dirty = true;
      await drawn;
      pictures.push({ frame, url: shrunk(stage.canvas) });
    }
    clock.set(back);
    try {
      sessionStorage.setItem("report:" + link.dataset.report, JSON.stringify(pictures));
    } catch {
      // Without room for pictures the report is one of words.
    }
    location.href = link.href;
  });
}
