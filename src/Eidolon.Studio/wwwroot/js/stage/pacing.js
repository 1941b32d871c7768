// When the Stage draws: at the next frame of the display after something changed, or while time runs; never while nothing moves.
export class Pacing {
  constructor(stage) {
    this.stage = stage;
    this.frames = 0;
    this.moving = false;
    this._dirty = false;
    this._hold = false;
    this._asked = false;
    this._pacing = false;
    this._cost = 16;
    this._rest = 0;
    this._drew = 0;
    this._drawn = 0;
    this._shadowless = 0;
    this.owed = false;
    stage.clock?.addEventListener("frame", () => this.change());
    stage.clock?.addEventListener("state", () => this.ask());
  }

  get dirty() {
    return this._dirty;
  }

  // While a page gathers its data nothing is drawn: half a scene helps nobody and costs frames.
  get hold() {
    return this._hold;
  }

  set hold(on) {
    this._hold = on;
    this.ask();
  }

  // Something is to be seen that is not in the picture yet.
  change(dirty = true) {
    this._dirty = dirty;
    if (dirty) this.ask();
  }

  ask() {
    if (this._asked) return;
    this._asked = true;
    requestAnimationFrame((now) => {
      this._asked = false;
      this.frame(now);
    });
  }

  frame(now) {
    this.stage.clock?.tick(now);
    if (this.stage.clock?.playing) this.ask();
    this.measure(now);
    if (this._hold) return;
    const due = this._dirty || (this.owed && now - this._drawn > 250);
    if (due && now >= this._rest) {
      this._drew = now;
      this._pacing = true;
      this.inTime(now);
      this._pacing = false;
      this._dirty = false;
      this.frames++;
      this.stage.draw();
    }
    // Once more: to measure what it cost, or because it is not drawn (whole) yet.
    if (this._drew || this._dirty || this.owed) this.ask();
  }

  // A canvas that gets another size is emptied: its picture is drawn at once, before anybody sees an empty Stage.
  redraw() {
    if (!this.frames || this._hold || this._pacing) return;
    this.frames++;
    this.stage.draw();
  }

  // Where a picture takes long (no graphics card), as long again is left to the rest of the machine.
  measure(now) {
    if (!this._drew) return;
    this._cost = 0.7 * this._cost + 0.3 * Math.min(400, now - this._drew);
    this._rest = this._cost > 80 ? now + this._cost : 0;
    this._drew = 0;
  }

  // Where a picture takes long, those of a movement are coarser and only every third has its thrown shadows new; the last is drawn
  // once more, whole.
  inTime(now) {
    const late = this._dirty && this._cost > 80 && now - this._drawn < 1500;
    if (late !== this.moving) {
      this.moving = late;
      this.stage.resize();
    }
    this._shadowless = late && this._shadowless < 2 ? this._shadowless + 1 : 0;
    this._drawn = now;
    this.owed = late;
    this.stage.renderer.shadowMap.autoUpdate = this._shadowless === 0;
  }
}
