import { toast } from "../app.js";

const key = "e-clips";

// Clips that were copied, also for another scene: they are of one character, and go on its tracks only.
export class Clipboard {
  constructor(tracks) {
    this.tracks = tracks;
  }

  get holds() {
    return JSON.parse(sessionStorage.getItem(key) ?? "null");
  }

  copy() {
    const at = this.tracks.at;
    if (!at) {
      toast("Choose a clip first");
      return;
    }
    const clips = this.tracks.definite(at.lane),
      all = this.tracks.all;
    sessionStorage.setItem(key, JSON.stringify({ of: at.lane.name, clips: all.map((i) => clips[i]) }));
    toast(all.length === 1 ? "A clip is copied" : `${all.length} clips are copied`);
    this.tracks.say();
  }

  cut() {
    if (!this.tracks.at) return;
    this.copy();
    this.tracks.remove();
  }

  // After the clip that is chosen, else at the end of the first track of their character.
  paste() {
    const held = this.holds,
      at = this.tracks.at;
    if (!held) {
      toast("Nothing is copied yet");
      return;
    }
    const lane = at?.lane.name === held.of ? at.lane : this.tracks.tracks.find((l) => l.name === held.of);
    if (!lane) {
      toast(`The clips that are copied are of the ${held.of}, who is not in this scene`);
      return;
    }
    if (at && at.lane !== lane) {
      toast(`The clips that are copied are of the ${held.of}`);
      return;
    }
    this.tracks.insert(lane, at ? this.tracks.all.at(-1) + 1 : lane.clips.length, held.clips);
  }
}
