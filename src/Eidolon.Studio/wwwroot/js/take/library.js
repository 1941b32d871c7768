// From the library: dragged onto a track, at the place where it is dropped.
export function fromLibrary(tracks) {
  let held = null;
  const scrub = document.querySelector(".e-scrub");
  for (const card of document.querySelectorAll(".e-clip[draggable]"))
    card.addEventListener("dragstart", (e) => {
      held = card;
      e.dataTransfer.setData("text/plain", card.dataset.node);
      e.dataTransfer.effectAllowed = "copy";
    });
  const place = (e) => {
    const at = tracks.lanes.under(e),
      lane = at.lane?.kind === "track" && at.lane.node === Number(held?.dataset.track) ? at.lane : null;
    return lane ? { lane, index: lane.blocks.filter(([a, b]) => (a + b) / 2 < at.frame).length } : null;
  };
  const clear = () => {
    for (const l of tracks.tracks) delete l.drop;
    tracks.lanes.draw();
  };
  scrub.addEventListener("dragover", (e) => {
    const to = place(e);
    clear();
    if (!to) return;
    e.preventDefault();
    to.lane.drop = to.index === 0 ? 0 : to.lane.blocks[to.index - 1][1];
    tracks.lanes.draw();
  });
  scrub.addEventListener("dragleave", clear);
  scrub.addEventListener("drop", (e) => {
    const to = place(e);
    clear();
    if (!to) return;
    e.preventDefault();
    tracks.lay(to.lane, to.index, held);
  });
}
