import { PackedDataError } from '../../errors.ts';
import { ByteReader } from '../../byte-source.ts';
import type { ChunkChannel, ChunkLayout } from './layout.ts';

/** How dwa packs a channel. */
export type DwaScheme = 'unknown' | 'cosine' | 'rle';

interface Rule {
  readonly suffix: string;
  readonly type: ChunkChannel['type'];
  readonly scheme: DwaScheme;
  /** Place in a set of red, green and blue that is packed together; -1 for a channel by itself. */
  readonly place: number;
  readonly anyCase: boolean;
}

/** The channels of a chunk, sorted into the ways in which they are packed. */
export interface DwaClasses {
  readonly schemes: readonly DwaScheme[];
  /** Triples of channel indices that share a colour transform, in the order in which they are packed. */
  readonly colourSets: readonly (readonly [number, number, number])[];
}

const SCHEMES: readonly DwaScheme[] = ['unknown', 'cosine', 'rle'];
const TYPES = ['uint', 'half', 'float'] as const;

/** Reads the rules that a chunk of version 2 carries. @throws PackedDataError */
export function readDwaRules(reader: ByteReader): Rule[] {
  const size = reader.uint8() | (reader.uint8() << 8);
  if (size < 2) throw new PackedDataError('its channel rules are impossible');
  const rules = new ByteReader(reader.take(size - 2), { littleEndian: true });
  const list: Rule[] = [];
  while (rules.remaining > 0) {
    const suffix = rules.zeroEndedText(255, 'A channel rule');
    const value = rules.uint8();
    const scheme = SCHEMES[(value >> 2) & 3];
    const type = TYPES[rules.uint8()];
    const place = (value >> 4) - 1;
    if (!scheme || !type || place > 2) throw new PackedDataError('its channel rules are impossible');
    list.push({ suffix, type, scheme, place, anyCase: (value & 1) !== 0 });
  }
  return list;
}

/** The rules that older chunks go by (OpenEXR, ImfDwaCompressor, legacy channel rules). */
export function oldDwaRules(): Rule[] {
  const names: [string, DwaScheme, number][] = [
    ...['r', 'red'].map((name): [string, DwaScheme, number] => [name, 'cosine', 0]),
    ...['g', 'grn', 'green'].map((name): [string, DwaScheme, number] => [name, 'cosine', 1]),
    ...['b', 'blu', 'blue'].map((name): [string, DwaScheme, number] => [name, 'cosine', 2]),
    ...['y', 'by', 'ry'].map((name): [string, DwaScheme, number] => [name, 'cosine', -1]),
  ];
  const colours = names.flatMap(([suffix, scheme, place]) =>
    (['half', 'float'] as const).map((type): Rule => ({ suffix, type, scheme, place, anyCase: true })),
  );
  return [...colours, ...TYPES.map((type): Rule => ({ suffix: 'a', type, scheme: 'rle', place: -1, anyCase: true }))];
}

/** The rules by which we pack: colours as cosine blocks, three together where all are there; alpha as runs. */
export function dwaRules(): Rule[] {
  const names: [string, DwaScheme, number][] = [
    ...['R', 'G', 'B'].map((name, place): [string, DwaScheme, number] => [name, 'cosine', place]),
    ...['Y', 'BY', 'RY'].map((name): [string, DwaScheme, number] => [name, 'cosine', -1]),
  ];
  const colours = names.flatMap(([suffix, scheme, place]) =>
    (['half', 'float'] as const).map((type): Rule => ({ suffix, type, scheme, place, anyCase: false })),
  );
  return [...colours, ...TYPES.map((type): Rule => ({ suffix: 'A', type, scheme: 'rle', place: -1, anyCase: false }))];
}

/** The same as a chunk of version 2 carries them. */
export function writeDwaRules(): Uint8Array {
  const bytes = dwaRules().flatMap(({ suffix, type, scheme, place, anyCase }) => [
    ...[...suffix].map((letter) => letter.charCodeAt(0)),
    ...[0, ((place + 1) << 4) | (SCHEMES.indexOf(scheme) << 2) | Number(anyCase), TYPES.indexOf(type)],
  ]);
  const size = bytes.length + 2;
  return Uint8Array.from([size & 0xff, size >> 8, ...bytes]);
}

/** Sorts a chunk's channels by the rules. */
export function classifyChannels(layout: ChunkLayout, rules: readonly Rule[]): DwaClasses {
  const sets = new Map<string, number[]>();
  const schemes = layout.channels.map((channel, index): DwaScheme => {
    const dot = channel.name.lastIndexOf('.');
    const [prefix, suffix] = [channel.name.slice(0, dot + 1), channel.name.slice(dot + 1)];
    let scheme: DwaScheme = 'unknown';
    for (const rule of rules) {
      if (rule.type !== channel.type || (rule.anyCase ? rule.suffix.toLowerCase() !== suffix.toLowerCase() : rule.suffix !== suffix)) continue;
      scheme = rule.scheme;
      if (rule.place < 0) continue;
      const set = sets.get(prefix) ?? [-1, -1, -1];
      set[rule.place] = index;
      sets.set(prefix, set);
    }
    return scheme;
  });
  const colourSets = [...sets.entries()]
    .sort(([a], [b]) => (a < b ? -1 : 1))
    .map(([, [r, g, b]]) => [r!, g!, b!] as const)
    .filter((set) => set.every((index) => index >= 0))
    .filter((set) => {
      const [r, g, b] = [layout.channels[set[0]]!, layout.channels[set[1]]!, layout.channels[set[2]]!];
      return r.xSampling === g.xSampling && r.xSampling === b.xSampling && r.ySampling === g.ySampling && r.ySampling === b.ySampling;
    });
  return { schemes, colourSets };
}
