// Lets parts of the running application fall in the middle of batches, again and again, and looks
// whether anything was lost or done twice:
//
//   node scripts/fall-test.mjs [falls of each part, 10]
//
// It starts an application of its own on an empty folder. Every frame that was counted as sound must
// stay as it was to the end, and at the end every ordered frame must be sound.
import { spawn, execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readdirSync, rmSync, statSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';

const falls = Number(process.argv[2] ?? 10);
const home = path.resolve(import.meta.dirname, '..');
const top = mkdtempSync(path.join(os.tmpdir(), 'mint-falls-'));
const port = 4690;
const address = `http://127.0.0.1:${port}`;
const PARTS = ['engine', 'farm', 'database'];
const SIGNS = { engine: 'build/services/engine.js', farm: 'build/services/farm.js', database: `--datadir=${top}/data/database/data` };
const FRAMES = 400;

mkdirSync(path.join(top, 'shots', 'fall'), { recursive: true });
writeFileSync(
  path.join(top, 'config.json'),
  JSON.stringify({ demo: false, workers: 1, roots: [{ name: 'shots', path: path.join(top, 'shots'), writable: true }] }),
);
const app = spawn('node', ['build/services/start.js'], {
  cwd: home,
  env: {
    ...process.env,
    MINT_TALLY_HOME: home,
    MINT_TALLY_CONFIG: path.join(top, 'config.json'),
    MINT_TALLY_DATA: path.join(top, 'data'),
    MINT_TALLY_PORT: String(port),
    MINT_TALLY_DATABASE_URL: '',
  },
  stdio: ['ignore', 'ignore', 'pipe'],
});
let said = '';
app.stderr.on('data', (piece) => (said += piece));
await until(() => said.includes('is ready'), 60_000, 'the start');

const brief = {
  shot: 'fall',
  range: `1001-${1000 + FRAMES}`,
  resolution: [64, 36],
  sampling: { samples: 24 },
  passes: [
    { name: 'beauty', role: 'beauty', pattern: 'beauty.####.exr' },
    { name: 'depth', role: 'depth', pattern: 'depth.####.exr' },
  ],
};
const form = new URLSearchParams({ root: 'shots', folder: 'fall', note: '', brief: JSON.stringify(brief) });
await fetch(`${address}/shots/new`, {
  method: 'POST',
  body: form,
  headers: { Origin: address, 'Content-Type': 'application/x-www-form-urlencoded' },
  redirect: 'manual',
});

const send = (method, body) =>
  fetch(`${address}/shots/1/batch/control`, { method, headers: { Origin: address, 'Content-Type': 'application/json' }, body: JSON.stringify(body) });
const frames = Array.from({ length: FRAMES }, (_, i) => 1001 + i);
const command = ['orrery', '--shot={shot}', '--range={first}-{last}', '--size={width}x{height}', '--samples={samples}', '--passes={passes}'];
const machines = ['bowline', 'reef', 'sheetbend'];
const shares = machines.map((machine, i) => ({ machine, frames: frames.filter((_, at) => at % 3 === i) }));
const settings = { priority: 0, badInRow: 3, stopBadMachine: true, chunk: 6 };
const began = await send('PUT', { service: 'stand-in farm', command, shares, passes: ['beauty', 'depth'], overwrite: false, settings });
if (!began.ok) throw new Error(await began.text());

const folder = path.join(top, 'shots', 'fall');
const sound = new Map();
let twice = 0;
const look = async () => {
  const response = await fetch(`${address}/shots/1/batch/live`).catch(() => null);
  return response?.ok ? response.json() : null;
};
/** Notes the time of every file of the frames that the count calls sound, and whether one was written again. */
async function noteSound() {
  const response = await fetch(`${address}/shots/1/export/tally.json`).catch(() => null);
  if (!response?.ok) return;
  const tally = await response.json();
  const bad = new Set(tally.findings.filter(({ severity }) => severity === 'blocker').flatMap(({ frames: range }) => expand(range)));
  for (const name of readdirSync(folder)) {
    const frame = Number(/\d+/.exec(name)[0]);
    const { mtimeMs } = statSync(path.join(folder, name));
    if (sound.has(name) && sound.get(name) !== mtimeMs) twice++;
    if (!bad.has(frame) || sound.has(name)) sound.set(name, mtimeMs);
  }
}
function expand(range) {
  return range === ''
    ? []
    : range.split(',').flatMap((part) => {
        const [, first, last, step] = /^(-?\d+)(?:-(-?\d+))?(?:x(\d+))?$/.exec(part);
        const list = [];
        for (let frame = Number(first); frame <= Number(last ?? first); frame += Number(step ?? 1)) list.push(frame);
        return list;
      });
}

const fallen = Object.fromEntries(PARTS.map((part) => [part, 0]));
let view = null;
for (let turn = 0; turn < falls * PARTS.length; turn++) {
  await sleep(500 + Math.random() * 3500);
  await noteSound();
  view = (await look()) ?? view;
  if (view?.outcome) break;
  const part = PARTS[turn % PARTS.length];
  const found = execFileSync('pgrep', ['-f', '--', SIGNS[part]], { encoding: 'utf8' }).trim().split('\n').map(Number);
  const own = part === 'database' ? found : found.filter((pid) => childOf(pid, app.pid));
  if (own.length === 0) continue;
  process.kill(own[0], 'SIGKILL');
  fallen[part]++;
  console.log(`${part} fell; ${view?.done ?? 0} of ${FRAMES} done`);
}
await until(async () => ((view = (await look()) ?? view), view?.outcome), 600_000, 'the end of the batch');
await noteSound();
console.log(`falls: ${PARTS.map((part) => `${part} ${fallen[part]}`).join(', ')}`);
console.log(
  `batch ${view.outcome}: ${view.sound} sound, ${view.bad} bad of ${view.total}; ${view.alarms.length} alarms; files written again after they were sound: ${twice}`,
);
const good = view.sound === FRAMES && twice === 0;
console.log(good ? 'nothing lost, nothing done twice' : `NOT GOOD\n${said}`);
app.kill('SIGINT');
await new Promise((resolve) => app.once('exit', resolve));
rmSync(top, { recursive: true, force: true });
process.exitCode = good ? 0 : 1;

function childOf(pid, parent) {
  return execFileSync('ps', ['-o', 'ppid=', '-p', String(pid)], { encoding: 'utf8' }).trim() === String(parent);
}

async function until(holds, within, what) {
  for (const end = Date.now() + within; Date.now() < end; await sleep(200)) if (await holds()) return;
  throw new Error(`${what} did not come\n${said}`);
}
