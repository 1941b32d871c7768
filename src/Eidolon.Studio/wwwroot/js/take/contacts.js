// Contacts as blocks on their lanes: an edge is dragged, a click selects, Delete frees, dragging on an empty place plants. Every change is an entry of the Ledger.
export class Contacts {
  constructor(page) {
    Object.assign(this, page);
    this.surface = this.lanes.element.querySelector('.e-scrub');
    this.surface.addEventListener('pointerdown', e => this.down(e), { capture: true });
    this.surface.addEventListener('pointermove', e => this.moved(e), { capture: true });
    this.surface.addEventListener('pointerup', e => this.up(e), { capture: true });
    document.addEventListener('keydown', e => { if ((e.key === 'Delete' || e.key === 'Backspace') && this.selected && !e.target.closest('input, textarea, select')) { e.preventDefault(); this.free(); } });
  }

  frame(e) {
    const box = this.surface.getBoundingClientRect();
    return Math.round(this.lanes.from + (e.clientX - box.left) / box.width * (this.lanes.to - this.lanes.from));
  }

  lane(e) {
    const i = this.lanes.rowElements.findIndex(r => { const b = r.getBoundingClientRect(); return e.clientY >= b.top && e.clientY < b.bottom; });
    return this.lanes.lanes[i]?.contact ? i : -1;
  }

  near(e) { return Math.max(2, 6 / this.surface.clientWidth * (this.lanes.to - this.lanes.from)); }

  down(e) {
    const i = this.lane(e);
    this.selected = null;
    if (i < 0) { this.show(); return; }
    const lane = this.lanes.lanes[i], f = this.frame(e), reach = this.near(e);
    // Toes are drawn in the lower half.
    const box = this.lanes.rowElements[i].getBoundingClientRect(), toes = e.clientY > box.top + box.height / 2;
    const own = [...lane.blocks].sort((p, q) => (q[2] === 'toes') - (p[2] === 'toes'));
    if (!toes) own.reverse();
    const edge = own.find(([a, b]) => Math.abs(f - a) <= reach || Math.abs(f - b) <= reach), inside = own.find(([a, b]) => f >= a && f <= b);
    if (edge) this.drag = { i, block: edge, old: [...edge], end: Math.abs(f - edge[1]) <= reach ? 1 : 0, point: edge[2] };
    else if (inside) { this.selected = { i, block: inside }; this.show(); return; }
    else if (e.altKey) this.drag = { i, start: f, block: [f, f, lane.contact.point, true], made: true };
    else { this.show(); return; }
    // The scrubbing of time below must not see this one.
    e.stopImmediatePropagation();
    this.surface.setPointerCapture(e.pointerId);
    if (this.drag.made) lane.blocks.push(this.drag.block);
  }

  moved(e) {
    if (!this.drag) { this.surface.style.setProperty('cursor', this.lane(e) >= 0 ? 'ew-resize' : ''); return; }
    e.stopImmediatePropagation();
    const { block, end, made, start } = this.drag, f = Math.max(0, Math.min(this.clock.count - 1, this.frame(e)));
    if (made) { block[0] = Math.min(start, f); block[1] = Math.max(start, f); } else if (end) block[1] = Math.max(block[0] + 1, f); else block[0] = Math.min(block[1] - 1, f);
    this.clock.set(f);
    this.lanes.draw();
  }

  up(e) {
    const drag = this.drag;
    if (!drag) return;
    this.drag = null;
    e.stopImmediatePropagation();
    const { i, block, old, made } = drag, lane = this.lanes.lanes[i], edits = [];
    if (made) { if (block[1] - block[0] >= 2) edits.push({ start: block[0], end: block[1], planted: true }); else { lane.blocks.pop(); this.lanes.draw(); } } else {
      if (block[0] > old[0]) edits.push({ start: old[0], end: block[0] - 1, planted: false });
      if (block[1] < old[1]) edits.push({ start: block[1] + 1, end: old[1], planted: false });
      if (block[0] < old[0] || block[1] > old[1]) edits.push({ start: block[0], end: block[1], planted: true });
    }
    if (edits.length) this.run('contacts', { point: block[2] === 'toes' ? 'toe' : block[2], side: lane.side, edits });
  }

  free() {
    const { i, block } = this.selected, lane = this.lanes.lanes[i];
    this.selected = null;
    this.run('contacts', { point: block[2] === 'toes' ? 'toe' : block[2], side: lane.side, edits: [{ start: block[0], end: block[1], planted: false }] });
  }

  show() {
    this.lanes.chosenBlock = this.selected?.block ?? null;
    this.lanes.draw();
    if (this.selected) this.said(`${this.selected.block[2]}, frames ${this.selected.block[0]} to ${this.selected.block[1]}: drag an edge, Delete frees it`);
  }
}
