import { Color } from "three";

// Colours come from the tokens; the Stage reads them again when the theme changes.
export function palette() {
  const style = getComputedStyle(document.documentElement);
  const read = (name) => new Color(style.getPropertyValue("--e-" + name).trim());
  // Guide colours are made to be read as ink; on a whole body they are clay with a shade of them.
  const clay = read("stage-clay"),
    body = (name) => read(name).lerp(clay, Number(style.getPropertyValue("--e-stage-mild")));
  return {
    body: { L: body("left"), R: body("right"), C: clay },
    sky: read("stage-sky"),
    glow: read("stage-glow"),
    // What lies far away goes over into the glow.
    far: read("stage-sky").lerp(read("stage-glow"), 0.8),
    floor: read("stage-floor"),
    near: read("stage-near"),
    line: read("stage-line"),
    shadow: read("stage-shadow"),
    L: read("left"),
    R: read("right"),
    C: read("centre"),
    N: read("text-3"),
    text: read("text"),
    accent: read("accent"),
    must: read("must"),
    look: read("look"),
    dark: document.documentElement.dataset.bsTheme !== "light",
  };
}
