// A film that follows a clock, by its own speed while it plays. The clock leads.
export class FilmInStep {
  // lines: what is said now of how it lies beside the take: offset (seconds of film at frame 0), speed (1 as shot), from, to (seconds; 0 is
  // its end). first: the take's frame at the clock's 0.
  constructor(film, clock, lines, first = 0) {
    Object.assign(this, { film, clock, lines, first });
    this.time = 0;
    const follow = () => this.follow();
    clock.addEventListener("frame", follow);
    clock.addEventListener("state", follow);
    film.addEventListener("loadedmetadata", follow);
    follow();
  }

  follow() {
    const { film, clock } = this,
      { offset, speed, from, to } = this.lines(),
      t = offset + (this.first + clock.frame) / clock.rate / speed,
      inside = t >= Math.max(0, from) && t <= Math.min(to || Infinity, film.duration || Infinity);
    this.time = t;
    film.classList.toggle("e-outside", !inside);
    const playing = clock.playing && inside && !film.hidden;
    if (inside && !film.hidden && (!playing || Math.abs(film.currentTime - t) > 0.12)) film.currentTime = t;
    if (playing && film.paused) {
      film.playbackRate = Math.min(16, Math.max(0.0625, clock.speed / speed));
      film.play().catch(() => {});
    }
    if (!playing && !film.paused) film.pause();
  }
}
