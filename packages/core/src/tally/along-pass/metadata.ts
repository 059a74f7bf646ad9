import { notesOf, type NoteKind } from '../../assay/index.ts';
import type { Brief } from '../../brief/index.ts';
import { parseFrameRate, parseTimecode, TimecodeError, type FrameRate } from '../../timing/index.ts';
import { counted } from '../../wording.ts';
import type { FindingCode } from '../codes.ts';
import type { FindingCollector } from '../findings.ts';
import { commonest, type SeenFrame, type SeenPass } from './seen-pass.ts';

/** Several machines share a pass by right; a host is odd only where one wrote nearly everything. */
const SHARE_OF_ONE_HOST = 0.75;

/** So few frames say nothing of whether a note changes from frame to frame by nature. */
const FEW_FRAMES = 4;

interface Noted {
  readonly seen: SeenFrame;
  readonly notes: ReadonlyMap<NoteKind, string>;
}

/** Compares what renderers noted in their files: with the brief where it says, else along the pass. */
export function findMetadataDrift(collector: FindingCollector, pass: SeenPass, brief: Brief): void {
  if (!pass.ownsFiles) return;
  const ignored = new Set(brief.checks?.ignoreMetadata ?? []);
  const noted = pass.frames.filter((seen) => !seen.isOdd).map((seen): Noted => ({ seen, notes: notesOf(seen.header.metadata) }));
  for (const kind of ['camera', 'renderer', 'version', 'samples'] as const) {
    if (ignored.has(kind)) continue;
    const ordered = orderedNote(kind, brief);
    if (ordered !== 'varies') tellOdd(collector, pass, noted, kind, 'metadata-drift', ordered);
  }
  if (!ignored.has('host')) tellOdd(collector, pass, noted, 'host', 'metadata-drift', null, SHARE_OF_ONE_HOST);
  if (!ignored.has('rate')) tellRates(collector, pass, noted, brief);
  if (!ignored.has('colour space')) tellOdd(collector, pass, noted, 'colour space', 'wrong-colour-space', pass.ordered.pass.colourSpace ?? null);
  if (!ignored.has('timecode')) tellTimecodes(collector, pass, noted, brief);
}

/** What the brief says of a note; `varies` where frames may differ by right; null where it says nothing. */
function orderedNote(kind: NoteKind, brief: Brief): string | null {
  const { sampling } = brief;
  if (kind === 'samples') {
    if (sampling?.secondsPerFrame !== undefined || sampling?.noise !== undefined) return 'varies';
    return sampling?.samples === undefined ? null : String(sampling.samples);
  }
  return kind === 'version' && brief.version !== undefined && /^v?\d+$/i.test(brief.version) ? brief.version : null;
}

function tellOdd(
  collector: FindingCollector,
  pass: SeenPass,
  noted: readonly Noted[],
  kind: NoteKind,
  code: FindingCode,
  ordered: string | null,
  leastShare = 0,
): void {
  const values = noted.flatMap(({ notes }) => notes.get(kind) ?? []);
  const usual = commonest(values);
  if (!usual || (ordered === null && (usual.count < values.length * leastShare || changesByNature(values)))) return;
  const norm = ordered ?? usual.value;
  for (const { seen, notes } of noted) {
    const value = notes.get(kind);
    if (value === undefined || isSame(kind, value, norm)) continue;
    // What is ordered is the least; more than that costs nobody anything.
    if (kind === 'samples' && ordered !== null && Number(value) > Number(ordered)) continue;
    const detail =
      kind === 'samples'
        ? `${counted(Number(value), 'sample')} where ${norm} are ${ordered === null ? 'usual' : 'ordered'}`
        : `${kind} “${value}” where “${norm}” is ${ordered === null ? 'usual' : 'ordered'}`;
    collector.add(code, pass.name, { frame: seen.frame, file: seen.file.path, detail });
  }
}

/** Some writers note the command that made each file, with its own name and number in it: then none is usual. */
const changesByNature = (values: readonly string[]) => values.length >= FEW_FRAMES && new Set(values).size * 2 > values.length;

function isSame(kind: NoteKind, a: string, b: string): boolean {
  if (a === b) return true;
  if (kind === 'version') return versionNumber(a) !== null && versionNumber(a) === versionNumber(b);
  return kind === 'colour space' && loose(a) === loose(b);
}

function versionNumber(text: string): number | null {
  const digits = /^v?(\d+)$/i.exec(text);
  return digits ? Number(digits[1]) : null;
}

function loose(text: string): string {
  return text.toLowerCase().replace(/[^a-z0-9]/g, '');
}

function tellRates(collector: FindingCollector, pass: SeenPass, noted: readonly Noted[], brief: Brief): void {
  const rates = noted.flatMap(({ seen, notes }) => {
    const rate = readRate(notes.get('rate'));
    return rate === null ? [] : [{ seen, rate }];
  });
  const ordered = brief.fps === undefined ? null : valueOf(parseFrameRate(brief.fps));
  const norm = ordered ?? commonest(rates.map(({ rate }) => rate))?.value;
  if (norm === undefined) return;
  for (const { seen, rate } of rates) {
    // Files keep 23.976 with three digits or as a fraction.
    if (Math.abs(rate - norm) < 0.002) continue;
    const detail = `${shown(rate)} frames a second where ${shown(norm)} are ${ordered === null ? 'usual' : 'ordered'}`;
    collector.add('wrong-rate', pass.name, { frame: seen.frame, file: seen.file.path, detail });
  }
}

function readRate(text: string | undefined): number | null {
  const fraction = /^(\d+(?:\.\d+)?)(?:\/(\d+))?$/.exec(text ?? '');
  if (!fraction) return null;
  const rate = Number(fraction[1]) / Number(fraction[2] ?? 1);
  return Number.isFinite(rate) && rate > 0 ? rate : null;
}

function valueOf(rate: FrameRate): number {
  return rate.numerator / rate.denominator;
}

function shown(rate: number): string {
  return String(Math.round(rate * 1000) / 1000);
}

/** Timecodes count in step with the frames: their distance is the same all along. */
function tellTimecodes(collector: FindingCollector, pass: SeenPass, noted: readonly Noted[], brief: Brief): void {
  const rate = parseFrameRate(brief.fps ?? '24');
  const codes = noted.flatMap(({ seen, notes }) => {
    const frames = readTimecode(notes.get('timecode'), rate);
    return frames === null ? [] : [{ seen, offset: frames - seen.frame, text: notes.get('timecode')! }];
  });
  // A writer that stamps one timecode on everything does not count at all.
  if (new Set(codes.map(({ text }) => text)).size < 2) return;
  const usual = commonest(codes.map(({ offset }) => offset));
  if (!usual || usual.count * 2 <= codes.length) return;
  for (const { seen, offset } of codes) {
    if (offset === usual.value) continue;
    const off = offset - usual.value;
    const detail = `timecode ${Math.abs(off)} ${Math.abs(off) === 1 ? 'frame' : 'frames'} ${off > 0 ? 'ahead of' : 'behind'} the frame number`;
    collector.add('metadata-drift', pass.name, { frame: seen.frame, file: seen.file.path, detail });
  }
}

/** SMPTE ST 12-1 as files keep it: pairs of decimal digits, hours highest; bit 6 says drop-frame. */
function readTimecode(text: string | undefined, rate: FrameRate): number | null {
  if (text === undefined || !/^\d+$/.test(text)) return null;
  const bits = Number(text);
  const pair = (shift: number, tens: number) => `${(bits >>> (shift + 4)) & tens}${(bits >>> shift) & 15}`;
  try {
    return parseTimecode(`${pair(24, 3)}:${pair(16, 7)}:${pair(8, 7)}${(bits & 0x40) === 0 ? ':' : ';'}${pair(0, 3)}`, rate);
  } catch (thrown) {
    // What is no timecode at this rate says nothing about the frame.
    if (thrown instanceof TimecodeError) return null;
    throw thrown;
  }
}
