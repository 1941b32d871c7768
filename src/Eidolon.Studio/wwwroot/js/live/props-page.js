import { onStatus, begin, command } from "./connection.js";
import { LiveView } from "./liveview.js";

const $ = (id) => document.getElementById(id);
const view = new LiveView(document.querySelector(".e-stage"));
const stage = view.stage;
stage.camera.position.set(2.6, 2.2, 3.6);
stage.controls.target.set(0, 0.7, 0);
stage.controls.update();
const picked = new Map();
window.eidolon = { stage, view, picked };
onStatus(show);

function show(s) {
  for (const li of document.querySelectorAll("#list [data-prop]")) {
    const p = s.view.props.find((x) => x.name === li.dataset.prop);
    li.querySelector("[data-seen]").textContent = p ? p.seen : "–";
    li.querySelector("[data-trust]").textContent =
      !p || p.seen === 0 ? "not seen now" : p.trusted ? `trust ${(p.trust * 100).toFixed(0)} %` : "seen, but not to be trusted";
  }
}

// Picked markers are held by their place at the moment of picking; hold the picture while picking.
function list() {
  $("picked").textContent = picked.size;
  $("make").disabled = picked.size < 3;
  $("make").textContent = `Make it of ${picked.size} markers`;
  $("make").title = picked.size < 3 ? "Three markers or more make a prop" : "";
  $("picks").replaceChildren(
    ...[...picked].map(([slot, p]) => {
      const li = document.createElement("li");
      li.className = "row-x";
      const words = document.createElement("span");
      words.className = "n";
      words.textContent = `${view.info[slot].name}  ${p.map((v) => (v * 1000).toFixed(0)).join(", ")} mm`;
      const off = document.createElement("button");
      off.className = "btn btn-bare sm end";
      off.type = "button";
      off.textContent = "Take out";
      off.addEventListener("click", () => {
        picked.delete(slot);
        list();
      });
      li.append(words, off);
      return li;
    }),
  );
}

function hold(on) {
  view.hold = on;
  $("freeze").setAttribute("aria-pressed", on);
  $("freeze").textContent = on ? "Let it run" : "Hold the picture";
}

stage.addEventListener("pick", (e) => {
  const slot = e.detail.marker;
  if (slot < 0) return;
  hold(true);
  const d = stage.markers.samples.data;
  if (picked.has(slot)) picked.delete(slot);
  else picked.set(slot, [d[slot * 3], d[slot * 3 + 1], d[slot * 3 + 2]]);
  stage.markers.pinned = picked;
  stage.select(slot);
  list();
});
$("freeze").addEventListener("click", () => hold(!view.hold));
$("new-prop").addEventListener("submit", async (e) => {
  e.preventDefault();
  const token = document.querySelector('meta[name="antiforgery"]').content;
  const answer = await (
    await fetch("/record/props?handler=Make", {
      method: "POST",
      headers: { "Content-Type": "application/json", "X-Antiforgery": token },
      body: JSON.stringify({ name: $("name").value, places: [...picked.values()] }),
    })
  ).json();
  if (answer.error) {
    $("prop-error").textContent = answer.error;
    return;
  }
  location.href = `/record/props?prop=${answer.id}`;
});
$("look")?.addEventListener("click", () => {
  view.through = view.through ? null : $("look").dataset.prop;
  $("look").textContent = view.through ? "Step back" : "Look through it";
});
await begin(show);
await command("Perform", "crate-carry", "Ines");
await view.load();
view.cameras.setCover(false);
list();
document.body.dataset.ready = "true";
