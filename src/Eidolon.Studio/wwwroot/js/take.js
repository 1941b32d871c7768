import { Clock } from './stage/clock.js';
import { Stage } from './stage/stage.js';
import { Lanes } from './lanes/lanes.js';
import { Curves } from './lanes/curves.js';
import { onKey, toast } from './app.js';

const main = document.getElementById('main');
const take = main.dataset.take, step = main.dataset.step;
const token = document.querySelector('meta[name="antiforgery"]').content;
const floats = async url => { const r = await fetch(url); if (!r.ok) throw new Error(url); return new Float32Array(await r.arrayBuffer()); };
const post = (handler, fields) => fetch(`?handler=${handler}`, { method: 'POST', headers: { 'X-Antiforgery': token }, body: new URLSearchParams(fields) });

export function run(operation, parameters) {
  window.htmx.ajax('POST', '?handler=Run', { target: '#job', swap: 'innerHTML', values: { operation, parameters: JSON.stringify(parameters) } });
}

document.addEventListener('e-run', e => run(e.detail.operation, e.detail.parameters));

const scene = await (await fetch(`/api/takes/${take}/scene?step=${step}`)).json();
const clock = new Clock(scene.frameCount, scene.frameRate, `take:${take}`);
const stage = new Stage(document.getElementById('stage'), clock);
const lanes = new Lanes(document.getElementById('lanes'), clock, scene.lanes);
const curves = new Curves(lanes, stage, clock);
window.eidolon = { clock, stage, scene, lanes, curves };
stage.hold = true;

const wantsMarkers = ['label', 'clean', 'solve'].includes(step) || scene.figures.length === 0;
// Everything is asked for at once; figures arrive in any order and are put in theirs.
await Promise.all([
  wantsMarkers ? floats(`/api/takes/${take}/markers`).then(data => stage.setMarkers(scene.markers, scene.links, data)) : null,
  ...scene.figures.filter(f => step !== 'label' || f.kind !== 'performer').map(async figure => {
    const f = await stage.addFigure(figure, await floats(`/api/takes/${take}/motion/${figure.kind}`));
    if (step === 'solve' || step === 'clean') f.mode('ghost');
  }),
]);
stage.figures.sort((a, b) => scene.figures.indexOf(a.info) - scene.figures.indexOf(b.info));
layout();
shown();
if (!stage.figures.length && !stage.markers) said('Nothing to show yet');
stage.frameAll(step === 'retarget' ? 5.6 : 4.4);
stage.hold = false;
document.body.dataset.ready = 'true';

// ---- curves of the marker that is selected ----
const curveKind = document.getElementById('curves');
if (curveKind && stage.markers) {
  stage.addEventListener('select', e => curves.select(e.detail.marker));
  const change = () => { curves.marker = stage.markers.selected; curves.show(curveKind.value); };
  curveKind.addEventListener('change', change);
  change();
  onKey('C', () => { curveKind.selectedIndex = (curveKind.selectedIndex + 1) % curveKind.length; curveKind.dispatchEvent(new Event('change')); });
}

function said(text) { document.getElementById('said').textContent = text; }

// Performer and character side by side, or laid over one another.
function layout() {
  const [a, b] = stage.figures;
  if (step === 'retarget' && a && b) {
    const side = sessionStorage.getItem('retarget:view') !== 'over';
    a.group.position.x = side ? -0.65 : 0;
    b.group.position.x = side ? 0.65 : 0;
    a.mode(side ? 'body' : 'ghost');
  }
}

// The row of choices at the top left depends on the Step.
function shown() {
  const box = document.getElementById('show');
  const sets = {
    label: [['Links', () => look(false, true)], ['Dots', () => look(true, false)], ['Both', () => look(true, true)]],
    clean: [['Dots', () => look(true, false)], ['Links', () => look(false, true)], ['Both', () => look(true, true)]],
    solve: [['Markers', () => { look(true, true); mode('none'); }], ['Body', () => { look(true, false); mode('ghost'); }], ['Bones', () => { look(true, false); mode('both'); }]],
    retarget: [['Side by side', () => { sessionStorage.setItem('retarget:view', 'side'); layout(); }], ['Laid over', () => { sessionStorage.setItem('retarget:view', 'over'); layout(); }], ['Bones', () => mode('both')]],
  };
  const choices = sets[step] ?? [['Body', () => mode('body')], ['Body and bones', () => mode('both')], ['Bones', () => mode('bones')]];
  const key = 'show:' + step, kept = Number(localStorage.getItem(key) ?? (step === 'label' || step === 'clean' ? 2 : step === 'solve' ? 2 : 0));
  choices.forEach(([name, action], i) => {
    const b = document.createElement('button');
    b.textContent = name;
    b.type = 'button';
    const on = () => {
      [...box.children].forEach(c => { c.classList.toggle('on', c === b); c.setAttribute('aria-pressed', c === b); });
      localStorage.setItem(key, i);
      action();
      stage.dirty = true;
    };
    b.addEventListener('click', on);
    box.append(b);
    if (i === kept) on();
  });
}

function look(dots, links) { if (stage.markers) stage.markers.shown = { dots, links }; }

function mode(kind) { for (const f of stage.figures) { f.group.visible = kind !== 'none'; if (kind !== 'none') f.mode(kind); } }

// ---- the Stage's own controls ----
const follow = document.getElementById('follow');
const showFollow = () => { follow.classList.toggle('on', stage.follow); follow.setAttribute('aria-pressed', stage.follow); };
follow.addEventListener('click', () => { stage.setFollow(!stage.follow); showFollow(); });
showFollow();
let from = 0;
document.getElementById('frame-all').addEventListener('click', () => stage.frameAll());
document.getElementById('view-from').addEventListener('click', () => stage.view(++from));
const speed = document.getElementById('speed');
const setSpeed = () => { clock.speed = Number(speed.value); };
speed.addEventListener('change', setSpeed);
setSpeed();

onKey(' ', () => clock.toggle());
onKey('ArrowLeft', e => clock.step(e.shiftKey ? -10 : -1));
onKey('ArrowRight', e => clock.step(e.shiftKey ? 10 : 1));
onKey('Home', () => clock.set(clock.inPoint));
onKey('End', () => clock.set(clock.outPoint));
onKey('F', () => follow.click());
onKey('V', () => stage.view(++from));
onKey('Z', () => stage.frameAll());
onKey('T', () => stage.toggleTrail());
onKey('O', () => document.querySelector('[data-circle]').click());
onKey('J', () => document.getElementById('jot')?.focus());
const rangeSaid = () => { document.getElementById('range-said').textContent = clock.inPoint > 0 || clock.outPoint < clock.count - 1 ? `loops ${clock.inPoint}–${clock.outPoint}` : ''; };
onKey('B', () => { clock.range(clock.frame, Math.max(clock.frame, clock.outPoint)); rangeSaid(); });
onKey('⇧B', () => { clock.range(Math.min(clock.inPoint, clock.frame), clock.frame); rangeSaid(); });

// ---- Findings: one after the other, by key or by click ----
const findings = [...document.querySelectorAll('#findings .e-finding')];
let current = -1;
function goTo(i) {
  if (!findings.length) return;
  current = (i + findings.length) % findings.length;
  const f = findings[current];
  findings.forEach(x => x.classList.toggle('sel', x === f));
  f.scrollIntoView({ block: 'nearest' });
  clock.pause();
  clock.set((Number(f.dataset.start) + Number(f.dataset.end)) / 2);
  const marker = scene.markers.findIndex(m => m.name === f.dataset.subject);
  stage.select(marker);
  if (marker >= 0) said(`${f.dataset.subject}, ${f.querySelector('.small')?.textContent ?? ''}`);
  if (step === 'clean') openRemedy(f, marker);
}
findings.forEach((f, i) => f.addEventListener('click', () => goTo(i)));
onKey('N', () => goTo(current + 1));
onKey('⇧N', () => goTo(current - 1));

// ---- a lane's click selects its marker or its worst gap ----
lanes.addEventListener('lane', e => {
  const { lane, index } = e.detail;
  lanes.rowElements.forEach((r, i) => r.classList.toggle('sel', i === index));
  if (lane.marker !== undefined) stage.select(lane.marker);
  const hit = lane.gaps?.find(([a, b]) => clock.frame >= a - 2 && clock.frame <= b + 2);
  if (hit) stage.select(hit[2]);
});

// ---- Clean: a remedy is shown before it is taken ----
const remedy = document.getElementById('remedy'), swap = document.getElementById('remedy-swap');
const words = { correlation: 'the markers around it', rigid: 'segment mates', skeleton: 'the solved skeleton', cycle: 'another cycle of the take', spline: 'a smooth curve' };
let gap = null, proposals = [], proposalStart = 0;
async function openRemedy(finding, marker) {
  if (!remedy) return;
  const isGap = finding.dataset.kind === 'gap' && marker >= 0, isSwap = finding.dataset.kind === 'swap';
  remedy.classList.toggle('e-hidden', !isGap);
  swap.classList.toggle('e-hidden', !isSwap);
  stage.markers.setProposal(null);
  curves.propose(0, null);
  gap = null;
  if (isSwap) openSwap(finding);
  if (!isGap) return;
  gap = { marker: finding.dataset.subject, frame: Number(finding.dataset.start), length: finding.dataset.end - finding.dataset.start + 1 };
  const asked = gap;
  document.getElementById('remedy-name').textContent = gap.marker;
  document.getElementById('remedy-said').textContent = 'Trying every way on stretches that are seen …';
  remedy.querySelectorAll('[data-error]').forEach(o => { o.textContent = '…'; });
  const answer = await (await fetch(`/api/takes/${take}/proposals?${new URLSearchParams({ marker: gap.marker, frame: gap.frame })}`)).json();
  if (gap !== asked) return;
  proposals = answer.proposals ?? [];
  proposalStart = answer.start;
  // The gap with as much again on either side, so that it can be judged.
  const around = Math.max(60, gap.length);
  lanes.show(gap.frame - around, gap.frame + gap.length + around);
  for (const row of remedy.querySelectorAll('[data-method]')) {
    const p = proposals.find(x => x.method === row.dataset.method), input = row.querySelector('input');
    input.disabled = !p;
    input.checked = p !== undefined && p === proposals[0];
    row.querySelector('[data-error]').textContent = !p ? 'not here' : p.expected === null ? 'not known' : `${p.expected.toFixed(1)} mm`;
  }
  document.getElementById('take-it').disabled = proposals.length === 0;
  if (answer.error) document.getElementById('remedy-said').textContent = answer.error; else preview();
}

const method = () => remedy.querySelector('input[name="method"]:checked')?.value;
function preview() {
  const p = proposals.find(x => x.method === method());
  if (!gap || !p) return;
  document.getElementById('remedy-said').textContent = `Proposed from ${words[p.method]}; shown dashed on the Stage, not kept yet.`;
  stage.markers.setProposal(p.points);
  curves.propose(proposalStart, p.points, p.method === 'spline' ? null : proposals.find(x => x.method === 'spline')?.points);
  stage.dirty = true;
}
remedy?.addEventListener('change', preview);
document.getElementById('take-it')?.addEventListener('click', takeIt);
document.getElementById('leave-it')?.addEventListener('click', () => { remedy.classList.add('e-hidden'); stage.markers.setProposal(null); curves.propose(0, null); stage.dirty = true; });
function takeIt() {
  if (gap && method()) run('fill', { method: method(), longest: gap.length, marker: gap.marker, frame: gap.frame });
}
onKey('Y', () => { if (remedy && !remedy.classList.contains('e-hidden')) takeIt(); else if (swap && !swap.classList.contains('e-hidden')) swap.querySelector('[data-exchange=end]').click(); });

// Two that traded places are exchanged from the frame on, before it, or between the marks.
let pair = null;
function openSwap(finding) {
  pair = { a: finding.dataset.subject, b: finding.dataset.other, frame: Number(finding.dataset.start) };
  swap.querySelector('[data-a]').textContent = pair.a;
  swap.querySelector('[data-b]').textContent = pair.b;
}
swap?.addEventListener('click', e => {
  const where = e.target.dataset.exchange;
  if (!where || !pair) return;
  const [from, to] = where === 'end' ? [pair.frame, clock.count - 1] : where === 'start' ? [0, pair.frame - 1] : [clock.inPoint, clock.outPoint];
  run('exchange', { a: pair.a, b: pair.b, from, to });
});

// ---- Label: corrections take over what is selected and marked ----
document.getElementById('correct')?.addEventListener('toggle', e => { if (e.target.open) takeOver(); });
function takeOver() {
  const form = document.getElementById('correct');
  form.querySelectorAll('[data-in]').forEach(i => { i.value = clock.inPoint; });
  form.querySelectorAll('[data-out]').forEach(i => { i.value = clock.outPoint; });
  form.querySelectorAll('[data-now]').forEach(i => { i.value = Math.round(clock.frame); });
  if (stage.markers?.selected >= 0) form.querySelectorAll('[data-selected]').forEach(i => { i.value = scene.markers[stage.markers.selected].name; });
}

// ---- Label: pick a name, click the dot; the next name comes by itself ----
const names = [...document.querySelectorAll('#names button')];
let chosen = Number(sessionStorage.getItem(`name:${take}`) ?? -1);
function choose(i) {
  chosen = i;
  sessionStorage.setItem(`name:${take}`, i);
  names.forEach((b, k) => { b.classList.toggle('sel', k === i); b.setAttribute('aria-selected', k === i); });
  if (i < 0) return;
  names[i].scrollIntoView({ block: 'nearest' });
  said(`Click the dot for ${names[i].dataset.name}`);
  const m = scene.markers.findIndex(x => x.name === names[i].dataset.name);
  stage.select(m);
}
names.forEach((b, i) => b.addEventListener('click', () => choose(chosen === i ? -1 : i)));
if (step === 'label' && chosen >= 0 && chosen < names.length) choose(chosen);

async function name(marker, text) {
  const r = await post('Name', { dot: scene.markers[marker].name, name: text });
  if (!r.ok) { toast(await r.text()); return; }
  if (text && chosen >= 0) sessionStorage.setItem(`name:${take}`, Math.min(names.length - 1, chosen + 1));
  sessionStorage.setItem('e-toast', (await r.json()).summary);
  location.reload();
}
stage.addEventListener('pick', e => {
  const i = e.detail.marker;
  if (step === 'label' && chosen >= 0 && i >= 0) { name(i, names[chosen].dataset.name); return; }
  stage.select(i);
  said(i >= 0 ? scene.markers[i].name : '');
});
stage.addEventListener('hover', e => { if (e.detail.marker >= 0 && chosen < 0) said(scene.markers[e.detail.marker].name); });
document.getElementById('take-off')?.addEventListener('click', () => { if (stage.markers.selected >= 0) name(stage.markers.selected, ''); else toast('Select a dot first'); });
if (step === 'label') {
  onKey('X', () => document.getElementById('take-off')?.click());
  onKey('P', () => { if (chosen >= 0 && stage.markers.selected >= 0) name(stage.markers.selected, names[chosen].dataset.name); });
}
const told = sessionStorage.getItem('e-toast');
if (told) { sessionStorage.removeItem('e-toast'); toast(told, () => document.querySelector('[data-take-back]')?.click()); }

// ---- Retarget, Assemble, Polish ----
onKey('E', () => { if (step === 'retarget') { const over = sessionStorage.getItem('retarget:view') === 'over'; sessionStorage.setItem('retarget:view', over ? 'side' : 'over'); layout(); stage.dirty = true; } });
document.querySelectorAll('input[type=range]').forEach(r => r.addEventListener('input', () => { const o = r.parentElement.querySelector('output'); if (o && !o.hasAttribute('x-text')) o.textContent = r.value; }));
document.getElementById('bake')?.addEventListener('click', () => {
  const clip = document.querySelector('input[name="clip"]:checked');
  if (!clip) { toast('Choose the clip that comes after'); return; }
  const value = id => Math.max(0, Math.round(Number(document.getElementById(id).value) || 0));
  run('assemble', { overlap: value('overlap'), clips: [{ start: 0, end: value('a-end') }, { take: clip.value, start: value('b-start') }] });
});
if (step === 'polish') {
  const layer = document.querySelector('[x-data="layer"]');
  onKey('A', () => layer?.dispatchEvent(new Event('e-add-key')));
  onKey('L', () => layer?.dispatchEvent(new Event('e-add-release')));
}

// ---- the same things as a list, for those who do not see the canvas ----
function list() {
  const ul = document.getElementById('stage-list');
  const items = [...stage.figures.map(f => `${f.info.kind} ${f.info.name}`)];
  if (stage.markers) {
    const seen = scene.markers.filter((m, i) => m.named && stage.markers.seen(clock.frame, i)).length;
    items.push(`${seen} named markers seen at frame ${clock.frame}`);
  }
  ul.replaceChildren(...items.map(t => Object.assign(document.createElement('li'), { textContent: t })));
}
let listed = 0;
clock.addEventListener('frame', () => { clearTimeout(listed); listed = setTimeout(list, 400); });
list();
