// The one clock of a page: frame, playing, rate, in and out points. Everything that shows time listens to it.
export class Clock extends EventTarget {
  constructor(frameCount, frameRate, key) {
    super();
    this.count = Math.max(1, frameCount);
    this.rate = frameRate;
    this.key = key;
    this.speed = 1;
    this.playing = false;
    this.inPoint = 0;
    this.outPoint = this.count - 1;
    const kept = Number(sessionStorage.getItem(key + ":frame"));
    this.frame = Number.isFinite(kept) ? Math.min(Math.max(0, kept), this.count - 1) : 0;
    this._exact = this.frame;
    this._last = 0;
  }

  // What is shown lasts otherwise now; a range that was the whole is the whole again.
  resize(frameCount) {
    const whole = this.inPoint === 0 && this.outPoint === this.count - 1;
    this.count = Math.max(1, frameCount);
    this.range(whole ? 0 : Math.min(this.inPoint, this.count - 1), whole ? this.count - 1 : this.outPoint);
    this.set(this.frame);
  }

  set(frame) {
    const f = Math.min(Math.max(0, Math.round(frame)), this.count - 1);
    this._exact = f;
    if (f !== this.frame) {
      this.frame = f;
      sessionStorage.setItem(this.key + ":frame", f);
      this.dispatchEvent(new Event("frame"));
    }
  }

  step(by) {
    this.pause();
    this.set(this.frame + by);
  }

  play() {
    if (!this.playing) {
      this.playing = true;
      this._last = performance.now();
      this.dispatchEvent(new Event("state"));
    }
  }

  pause() {
    if (this.playing) {
      this.playing = false;
      this.dispatchEvent(new Event("state"));
    }
  }

  toggle() {
    this.playing ? this.pause() : this.play();
  }

  range(a, b) {
    this.inPoint = Math.max(0, Math.min(a, b));
    this.outPoint = Math.min(this.count - 1, Math.max(a, b));
    this.dispatchEvent(new Event("range"));
  }

  // Called once a drawn frame: time runs at the take's own rate whatever the display's is.
  tick(now) {
    if (!this.playing) return;
    const passed = Math.min(0.25, (now - this._last) / 1000);
    this._last = now;
    let next = this._exact + passed * this.rate * this.speed;
    const length = this.outPoint - this.inPoint + 1;
    if (next > this.outPoint + 0.999) next = this.inPoint + ((next - this.inPoint) % length);
    if (next < this.inPoint) next = this.inPoint;
    this._exact = next;
    const f = Math.floor(next);
    if (f !== this.frame) {
      this.frame = f;
      sessionStorage.setItem(this.key + ":frame", f);
      this.dispatchEvent(new Event("frame"));
    }
  }
}
