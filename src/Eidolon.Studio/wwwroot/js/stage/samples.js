// Where markers are, frame by frame. Two stores with one way to ask: array(marker) holds x, y, z from offset(frame, marker) on; NaN is hidden.

// One frame after the other in one array: what a live view is sent.
export class FrameSamples {
  constructor(data, count) {
    this.data = data;
    this.count = count;
  }

  array() {
    return this.data;
  }

  offset(frame, marker) {
    return (frame * this.count + marker) * 3;
  }
}

// The motion of a figure: pose after pose in one array, which arrives in pieces. What is looked at is asked for first, the rest follows.
const motionPiece = 2400;

export class MotionSamples extends EventTarget {
  constructor(url, frames, stride) {
    super();
    Object.assign(this, { url, frames, stride, first: null });
    this.data = new Float32Array(frames * stride);
    this.here = Array(Math.ceil(frames / motionPiece)).fill(false);
  }

  has(frame) {
    return this.here[Math.floor(frame / motionPiece)];
  }

  // The piece around a frame now, all others after it.
  async open(frame) {
    await this.piece(Math.floor(Math.min(frame, this.frames - 1) / motionPiece));
    this.rest = this.others();
    if (this.here.length <= 2) await this.rest;
  }

  // A piece that does not come is asked for again when somebody looks at it.
  async others() {
    for (let k = 0; k < this.here.length; k++) {
      while (this.first !== null) {
        const wanted = this.first;
        this.first = null;
        await this.piece(wanted).catch(() => {});
      }
      await this.piece(k).catch(() => {});
    }
    this.rest = null;
  }

  // Somebody looks at a frame that is not there yet.
  want(frame) {
    this.first = Math.floor(frame / motionPiece);
    if (!this.rest) this.rest = this.others();
  }

  async piece(k) {
    if (this.here[k] || this.closed) return;
    const from = k * motionPiece,
      r = await fetch(`${this.url}?from=${from}&to=${Math.min(this.frames, from + motionPiece)}`);
    if (!r.ok) throw new Error(this.url);
    this.data.set(new Float32Array(await r.arrayBuffer()), from * this.stride);
    this.here[k] = true;
    this.dispatchEvent(new Event("piece"));
  }

  // Another motion has taken its place.
  close() {
    this.closed = true;
  }
}

// A column for each marker, so that an edit touches only what it changes and a long take can arrive in pieces.
export class TakeSamples {
  constructor(count, frames) {
    this.frames = frames;
    this.columns = Array.from({ length: count }, () => new Float32Array(frames * 3).fill(NaN));
  }

  get count() {
    return this.columns.length;
  }

  array(marker) {
    return this.columns[marker];
  }

  offset(frame) {
    return frame * 3;
  }

  // Frames as they are sent, from one on.
  load(from, flat) {
    const n = this.count,
      frames = flat.length / (3 * Math.max(1, n));
    for (let m = 0; m < n; m++) {
      const column = this.columns[m];
      for (let f = 0, at = m * 3, to = from * 3; f < frames; f++, at += n * 3, to += 3) {
        column[to] = flat[at];
        column[to + 1] = flat[at + 1];
        column[to + 2] = flat[at + 2];
      }
    }
  }

  // What /patch sends: the source of each column, then runs of samples. Columns that are not touched are shared with this state.
  patched(buffer) {
    const head = new Int32Array(buffer, 0, 2),
      sources = new Int32Array(buffer, 8, head[0]),
      next = new TakeSamples(0, this.frames);
    next.columns = Array.from(sources, (s) => (s >= 0 ? this.columns[s] : new Float32Array(this.frames * 3).fill(NaN)));
    const own = new Set();
    for (let k = 0, at = 8 + 4 * head[0]; k < head[1]; k++) {
      const [column, start, length] = new Int32Array(buffer, at, 3);
      if (!own.has(column)) {
        own.add(column);
        next.columns[column] = next.columns[column].slice();
      }
      next.columns[column].set(new Float32Array(buffer, at + 12, length * 3), start * 3);
      at += 12 + length * 12;
    }
    return next;
  }
}
