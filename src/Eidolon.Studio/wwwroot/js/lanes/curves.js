// Curves of the selected marker: position, speed or acceleration on the lanes' own time axis; gaps shaded, proposals dashed.
const css = name => getComputedStyle(document.documentElement).getPropertyValue('--e-' + name).trim();
const kinds = {
  position: { rows: [['x', 'to the left'], ['y', 'up'], ['z', 'ahead']], unit: 'm', digits: 3 },
  speed: { rows: [['v', 'speed']], unit: 'm/s', digits: 2 },
  acceleration: { rows: [['a', 'acceleration']], unit: 'm/s²', digits: 1 },
};

export class Curves {
  constructor(lanes, stage, clock) {
    Object.assign(this, { lanes, stage, clock, kind: 'off', marker: -1, proposals: null, rows: [] });
    lanes.addEventListener('window', () => this.draw());
    clock.addEventListener('frame', () => this.tell());
    document.addEventListener('e-theme', () => this.draw());
    new ResizeObserver(() => this.draw()).observe(lanes.element);
  }

  show(kind) { this.kind = kind; this.build(); }

  select(marker) { if (marker !== this.marker) { this.marker = marker; this.proposals = null; this.build(); } }

  // What would be put into a gap: the chosen points and, to compare, a smooth curve's.
  propose(start, chosen, rival) { this.proposals = chosen ? { start, chosen, rival } : null; this.draw(); }

  build() {
    this.rows.forEach(r => r.remove());
    this.rows = [];
    this.values = null;
    const kind = kinds[this.kind];
    this.lanes.rows.classList.toggle('with-curves', !!kind && this.marker >= 0);
    if (!kind || this.marker < 0) return;
    for (const [name, word] of kind.rows) {
      const row = document.createElement('div');
      row.className = 'e-lane e-curve-row';
      row.style.setProperty('--h', '46px');
      row.innerHTML = '<div class="nm"><b class="n"></b><span class="cut dim"></span><span class="t"></span></div><div class="tm"><canvas aria-hidden="true"></canvas></div>';
      row.querySelector('b').textContent = name;
      row.querySelector('.cut').textContent = word;
      row.setAttribute('role', 'listitem');
      row.setAttribute('aria-label', `${word} of ${this.stage.markers.info[this.marker].name}`);
      this.lanes.rows.append(row);
      this.rows.push(row);
    }
    this.values = this.series();
    this.draw();
    this.tell();
    this.rows[0].scrollIntoView({ block: 'nearest' });
  }

  series() {
    const { data, count } = this.stage.markers, n = this.clock.count, m = this.marker, rate = this.clock.rate;
    const at = (f, k) => f < 0 || f >= n ? NaN : data[(f * count + m) * 3 + k];
    if (this.kind === 'position') return [0, 1, 2].map(k => Float32Array.from({ length: n }, (_, f) => at(f, k)));
    const difference = this.kind === 'speed'
      ? (f, k) => (at(f + 1, k) - at(f - 1, k)) / 2 * rate
      : (f, k) => (at(f + 1, k) - 2 * at(f, k) + at(f - 1, k)) * rate * rate;
    return [Float32Array.from({ length: n }, (_, f) => Math.hypot(difference(f, 0), difference(f, 1), difference(f, 2)))];
  }

  tell() {
    const kind = kinds[this.kind];
    if (!kind || !this.values) return;
    this.rows.forEach((row, i) => {
      const v = this.values[i][Math.round(this.clock.frame)];
      row.querySelector('.t').textContent = Number.isNaN(v) ? 'hidden' : `${v.toFixed(kind.digits)} ${kind.unit}`;
    });
  }

  draw() {
    if (!this.values) return;
    const from = Math.max(0, Math.floor(this.lanes.from)), to = Math.min(this.clock.count - 1, Math.ceil(this.lanes.to));
    this.rows.forEach((row, i) => this.curve(row.querySelector('canvas'), this.values[i], i, from, to));
  }

  curve(canvas, values, axis, from, to) {
    const [g, w, h] = this.lanes.context(canvas), x = f => this.lanes.x(f, w);
    const p = this.kind === 'position' ? this.proposals : null, offered = p ? [p.chosen, p.rival].filter(Boolean).map(list => list.filter((_, k) => k % 3 === axis)) : [];
    let low = Infinity, high = -Infinity;
    const reach = v => { if (v < low) low = v; if (v > high) high = v; };
    for (let f = from; f <= to; f++) reach(values[f]);
    if (p && p.start <= to && p.start + p.chosen.length / 3 >= from) offered.forEach(list => list.forEach(reach));
    if (!(high > low)) { high = low + 0.001; }
    const y = v => h - 5 - (v - low) / (high - low) * (h - 10);
    g.fillStyle = css('hover');
    let open = -1;
    for (let f = from; f <= to + 1; f++) {
      const hidden = f <= to && Number.isNaN(values[f]);
      if (hidden && open < 0) open = f;
      if (!hidden && open >= 0) { g.fillRect(x(open - 0.5), 0, x(f - 0.5) - x(open - 0.5), h); open = -1; }
    }
    // More frames than pixels: the least and the most of each pixel are enough.
    const step = Math.max(1, Math.floor((to - from) / w / 2));
    g.strokeStyle = css('text');
    g.lineWidth = 1.5;
    g.beginPath();
    let pen = false;
    for (let f = from; f <= to; f += step) {
      if (Number.isNaN(values[f])) { pen = false; continue; }
      if (pen) g.lineTo(x(f), y(values[f])); else g.moveTo(x(f), y(values[f]));
      pen = true;
    }
    g.stroke();
    offered.forEach((list, k) => {
      g.strokeStyle = css(k === 0 ? 'accent' : 'must');
      g.setLineDash(k === 0 ? [6, 3] : [3, 4]);
      g.lineWidth = k === 0 ? 2 : 1.3;
      g.beginPath();
      list.forEach((v, j) => g.lineTo(x(p.start + j), y(v)));
      g.stroke();
    });
    g.setLineDash([]);
  }
}
