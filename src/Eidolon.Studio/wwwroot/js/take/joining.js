import { toast } from "../app.js";

const text = (id) => document.getElementById(id).value,
  whole = (id) => Math.max(0, Math.round(Number(text(id)) || 0)),
  ticked = (id) => document.getElementById(id).checked;

// How the chosen clip is played and meets what is on the track; what is as usual is not written down.
function next(clip) {
  const play = { node: Number(clip.value), start: 0 },
    joint = text("meet-joint"),
    [moment, place] = [text("meet-when"), text("meet-place")],
    speed = Number(text("speed-of").replace(",", ".")) || 1;
  if (ticked("at-frames")) {
    play.start = whole("b-start");
    play.overlap = whole("overlap");
  } else play.overlap = "best";
  if (joint || moment !== "middle" || place !== "floor") play.meet = { ...(joint ? { joint } : {}), moment, place };
  if (speed !== 1) play.speed = speed;
  if (whole("repeat-of") > 1) play.repeat = whole("repeat-of");
  if (ticked("mirror-of")) play.mirror = true;
  return play;
}

// The forms at Assemble: clips one after another on a track, and a loop of what they make.
export function joining({ run }) {
  const form = document.getElementById("assemble-form");
  const on = (id, act) => document.getElementById(id)?.addEventListener("click", act);
  const said = () => JSON.parse(form.dataset.clips),
    clipped = (clips) => run("clips", { clips, overlap: whole("overlap") }, form.dataset.node);
  on("bake", () => {
    const clip = document.querySelector('input[name="clip"]:checked');
    if (!clip) {
      toast("Choose the clip that comes after");
      return;
    }
    const clips = said();
    if (ticked("at-frames") && clips.length) clips[clips.length - 1].end = whole("a-end");
    clipped([...clips, next(clip)]);
  });
  on("unclip", () => clipped(said().slice(0, -1)));
  on("loop", () => run("loop", { cycles: Math.max(1, whole("cycles")), inPlace: ticked("in-place") }, form.dataset.node));
}
