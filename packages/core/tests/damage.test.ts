import { readdirSync } from 'node:fs';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { frameFormats, inspectFrameFile, memorySource, MintError } from '../src/index.ts';
import { fixture, tools } from './tools.ts';

const folder = new URL('../fixtures/', import.meta.url);
const FORMATS = ['png', 'exr', 'tiff', 'jpeg', 'tga', 'dpx'];
const files = FORMATS.flatMap((format) => readdirSync(new URL(format, folder)).map((name) => `${format}/${name}`)).filter((file) => !file.endsWith('.jsonl'));

/** What a look at a file finds: its code, or nothing. */
function found(bytes: Uint8Array, file: string, level: 'headers' | 'full' = 'full'): string | null {
  const { facts } = inspectFrameFile(memorySource(bytes), file, level, tools);
  return facts.problem?.code ?? (facts.trailingBytes > 0 ? 'trailing-data' : null);
}

/**
 * Files whose pixels carry no redundancy: a changed pixel is another pixel. Noise in floats does
 * not pack, so that chunks of it are stored as they are.
 */
const isPlain = (file: string) => /none|^tga\/|^dpx\/|planar|bigendian|float_(zip|piz)|uint_piz|(rgba|tiled|window)_half_piz|tiff.*rle|b44/.test(file);
/** Coding without a checksum notices much, not all. */
const isLoose = (file: string) => /rle|lzw|dwa|piz|^jpeg\//.test(file);
/** The share of damage that may go unnoticed; of the plain ones only what the header does not show. */
const mayMiss = (file: string, packed: number, loose: number) => (isPlain(file) ? 0.995 : isLoose(file) ? loose : packed);

describe.each(files)('%s, damaged', (file) => {
  const bytes = fixture(file);

  it('by a byte turned over: found wherever it cannot be a pixel', () => {
    const step = Math.max(1, Math.floor(bytes.length / 60));
    let tried = 0;
    let unnoticed = 0;
    for (let at = 0; at < bytes.length; at += step) {
      const damaged = bytes.slice();
      damaged[at] ^= 0xff;
      tried++;
      if (found(damaged, file) === null) unnoticed++;
    }
    // Where pixels are packed with a checksum, only notes and reserved bytes can change unseen.
    expect(unnoticed / tried).toBeLessThanOrEqual(mayMiss(file, 0.2, 0.95));
  });

  it('by zeroed blocks: found in what is packed, another picture in what is not', () => {
    const block = 512;
    const factsOf = (content: Uint8Array) => JSON.stringify(inspectFrameFile(memorySource(content), file, 'full', tools).facts);
    const whole = factsOf(bytes);
    let tried = 0;
    let unnoticed = 0;
    let unseen = 0;
    for (let at = 1024; at + block < bytes.length; at += block) {
      if (bytes.subarray(at, at + block).every((byte) => byte === 0)) continue;
      const damaged = bytes.slice();
      damaged.fill(0, at, at + block);
      tried++;
      if (found(damaged, file) !== null) continue;
      unnoticed++;
      if (factsOf(damaged) === whole) unseen++;
    }
    if (!isPlain(file)) expect(unnoticed).toBeLessThanOrEqual(tried * mayMiss(file, 0.1, 0.95));
    // One block may hold nothing but what is reserved in a header, or a smaller level of a picture.
    expect(unseen).toBeLessThanOrEqual(1);
  });

  it('by all zeros, by nothing, by a text, by other bytes', () => {
    expect(found(new Uint8Array(bytes.length), file)).toBe('unwritten-file');
    expect(found(new Uint8Array(0), file)).toBe('empty-file');
    expect(found(new TextEncoder().encode('render failed: license server not found\n'.repeat(20)), file)).toBe('wrong-format');
    const other = fixture(file.startsWith('png/') ? 'exr/rgba_half_zip.exr' : 'png/rgb8.png');
    expect(found(other, file)).toBe('wrong-format');
  });
});

/** Some bytes of a file changed, a stretch cut out or put in: what fuzzing does. */
const mutation = fc.oneof(
  fc.record({ kind: fc.constant('set' as const), at: fc.nat(), value: fc.integer({ min: 0, max: 255 }) }),
  fc.record({ kind: fc.constant('word' as const), at: fc.nat(), value: fc.constantFrom(0, 1, 0x7fffffff, 0x80000000, 0xffffffff, 0x10000, 0xff) }),
  fc.record({ kind: fc.constant('cut' as const), at: fc.nat(), value: fc.nat(64) }),
  fc.record({ kind: fc.constant('repeat' as const), at: fc.nat(), value: fc.nat(64) }),
);
type Mutation = typeof mutation extends fc.Arbitrary<infer Value> ? Value : never;

function mutated(bytes: Uint8Array, mutations: readonly Mutation[]): Uint8Array {
  let out = bytes.slice();
  for (const { kind, at, value } of mutations) {
    // Mostly in the header, where numbers are believed.
    const place = at % (at % 3 === 0 ? out.length : Math.min(out.length, 2600));
    if (kind === 'set') out[place] = value;
    else if (kind === 'word') for (let i = 0; i < 4 && place + i < out.length; i++) out[place + i] = value >>> (8 * i);
    else {
      const piece = out.subarray(place, place + value);
      const rest = out.subarray(kind === 'cut' ? place + value : place);
      out = Uint8Array.from([...out.subarray(0, place), ...(kind === 'cut' ? [] : piece), ...rest]);
    }
    if (out.length === 0) return bytes.slice(0, 1);
  }
  return out;
}

describe.each(FORMATS)('any bytes as %s', (name) => {
  const format = frameFormats.find((candidate) => candidate.name === name)!;
  const own = files.filter((file) => file.startsWith(`${name}/`));

  /** No throw but our own, and none that takes long. */
  function survives(bytes: Uint8Array): void {
    for (const look of [
      () => format.open(memorySource(bytes)).header,
      () => format.open(memorySource(bytes)).check(),
      () => format.open(memorySource(bytes)).decode(tools),
      () => void inspectFrameFile(memorySource(bytes), `a.${format.extensions[0]}`, 'full', tools),
    ]) {
      const start = performance.now();
      try {
        look();
      } catch (thrown) {
        if (!(thrown instanceof MintError)) throw new Error(`threw ${(thrown as Error).stack}`, { cause: thrown });
      }
      expect(performance.now() - start).toBeLessThan(5000);
    }
  }

  it('end in a finding, whatever is changed in a good file', () => {
    fc.assert(
      fc.property(fc.constantFrom(...own), fc.array(mutation, { minLength: 1, maxLength: 6 }), (file, mutations) =>
        survives(mutated(fixture(file), mutations)),
      ),
      { numRuns: 150 },
    );
  });

  it('end in a finding, whatever they are', () => {
    const start = fixture(own[0]);
    fc.assert(
      fc.property(fc.nat(64), fc.uint8Array({ maxLength: 400 }), (length, bytes) => survives(Uint8Array.from([...start.subarray(0, length), ...bytes]))),
      { numRuns: 150 },
    );
  });
});
