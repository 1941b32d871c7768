import { Stage } from './stage/stage.js';
import { onKey } from './app.js';

const $ = id => document.getElementById(id);
const main = $('main');
const slots = 72;
const stage = new Stage(document.querySelector('.e-stage'), null);
const info = Array.from({ length: slots }, (_, i) => ({ name: `Dot ${i + 1}`, side: 'C', named: true }));
stage.setMarkers(info, [], new Float32Array(slots * 3).fill(NaN));
stage.camera.position.set(3.4, 2.1, 5.0);
stage.controls.target.set(-0.4, 0.75, -0.3);
stage.controls.update();
window.eidolon = { stage };
const history = [];
let state = 'Ready', takeId = 0;

const connection = new signalR.HubConnectionBuilder().withUrl('/hubs/live').withHubProtocol(new signalR.protocols.msgpack.MessagePackHubProtocol()).withAutomaticReconnect().configureLogging(signalR.LogLevel.Warning).build();
connection.on('frame', bytes => {
  // The packet's bytes may start at any offset; typed arrays want four.
  stage.markers.data = new Float32Array(bytes.slice().buffer);
  stage.dirty = true;
});
connection.on('status', show);

function show(s) {
  const at = k => s[k] ?? s[k[0].toUpperCase() + k.slice(1)];
  state = at('state');
  const seen = at('seen');
  history.push(seen);
  if (history.length > 100) history.shift();
  $('live-count').textContent = $('m-seen').textContent = $('check-seen').textContent = $('seen-count').textContent = seen;
  const rate = at('rate').toFixed(1);
  $('m-rate').textContent = $('d-rate').textContent = rate;
  $('check-rate').textContent = `${rate} /s`;
  $('m-dropped').textContent = $('d-dropped').textContent = at('dropped');
  $('d-bad').textContent = at('bad');
  $('d-latency').textContent = `${Math.round(at('latencyMilliseconds'))} ms`;
  $('d-state').textContent = at('rate') > 0 ? 'connected' : 'nothing arriving';
  $('m-write').textContent = at('writeMegabytesPerSecond').toFixed(2);
  [...$('states').children].forEach(c => c.classList.toggle('on', c.textContent === state));
  const busy = state === 'Recording' || state === 'Pre-roll';
  $('record').classList.toggle('on', busy);
  $('record-word').textContent = state === 'Recording' ? `Stop · ${at('seconds').toFixed(1)} s` : state === 'Pre-roll' ? `${Math.ceil(at('seconds'))} …` : 'Record';
  $('record-hint').textContent = state === 'Recording' ? `${at('frames')} frames written; nothing is lost` : state === 'Pre-roll' ? 'counting in' : 'Hold R one second, or click; then a count of three';
  $('head-meta').textContent = state === 'Recording' ? `Recording ${at('seconds').toFixed(1)} s` : main.dataset.meta ?? $('head-meta').textContent;
  document.querySelector('.e-stage').classList.toggle('rec', state === 'Recording');
  draw();
}
main.dataset.meta = $('head-meta').textContent;

function draw() {
  const c = $('seen-history'), w = c.clientWidth, h = c.clientHeight;
  c.width = w;
  c.height = h;
  const g = c.getContext('2d'), style = getComputedStyle(document.documentElement);
  g.fillStyle = style.getPropertyValue('--e-text-3');
  history.forEach((v, i) => g.fillRect(i / 100 * w, h - v / 60 * h, w / 100 - 0.6, v / 60 * h));
}

async function toggle() {
  $('record-error').textContent = '';
  if (state === 'Recording' || state === 'Pre-roll') {
    takeId = await connection.invoke('Stop');
    if (takeId) location.href = `/takes/${takeId}/label`;
    return;
  }
  const request = { DayId: Number(main.dataset.day), SetUp: $('setup').value.trim(), Number: Number($('number').value) || 0, Performer: $('performer').value, Scene: $('scene').value, Note: $('note').value };
  const error = await connection.invoke('Record', request);
  $('record-error').textContent = error;
}
$('record').addEventListener('click', toggle);
const count = by => { $('number').value = Math.max(1, (Number($('number').value) || 1) + by); head(); };
$('less').addEventListener('click', () => count(-1));
$('more').addEventListener('click', () => count(1));
function head() { $('head-number').textContent = String($('number').value).padStart(2, '0'); $('head-take').firstChild.textContent = $('setup').value; }
$('setup').addEventListener('input', head);
$('number').addEventListener('input', head);
const perform = () => connection.invoke('Perform', $('scene').value, $('performer').value);
$('scene').addEventListener('change', perform);
$('performer').addEventListener('change', perform);

let holding = 0;
document.addEventListener('keydown', e => {
  if (e.key.toLowerCase() === 'r' && !e.repeat && !e.target.closest('input, textarea, select')) { $('record').classList.add('holding'); holding = setTimeout(toggle, 1000); }
});
document.addEventListener('keyup', e => { if (e.key.toLowerCase() === 'r') { clearTimeout(holding); $('record').classList.remove('holding'); } });
const follow = on => { stage.setFollow(on); $('follow').classList.toggle('on', on); $('stay').classList.toggle('on', !on); $('follow').setAttribute('aria-pressed', on); $('stay').setAttribute('aria-pressed', !on); };
$('follow').addEventListener('click', () => follow(true));
$('stay').addEventListener('click', () => follow(false));
onKey('F', () => follow(!stage.follow));
onKey('V', () => stage.view(1));
follow(stage.follow);
await connection.start();
show(await connection.invoke('Status'));
document.body.dataset.ready = 'true';
