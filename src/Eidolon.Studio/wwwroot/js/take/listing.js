// The same things as a list, for those who do not see the canvas.
export function listing({ stage, state, clock }, ul) {
  function list() {
    const items = [...stage.figures.map((f) => `${f.info.kind} ${f.info.name}`), ...stage.props.map((p) => `prop ${p.info.name}`)];
    if (stage.markers) {
      const seen = state.scene.markers.filter((m, i) => m.named && stage.markers.seen(clock.frame, i)).length;
      items.push(`${seen} named markers seen at frame ${clock.frame}`);
    }
    ul.replaceChildren(...items.map((t) => Object.assign(document.createElement("li"), { textContent: t })));
  }
  let listed = 0;
  clock.addEventListener("frame", () => {
    clearTimeout(listed);
    listed = setTimeout(list, 400);
  });
  list();
}
