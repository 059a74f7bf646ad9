import { floatOfHalf, type Plane } from '../../formats/index.ts';

/** Code values are told as shares of the largest. */
export function scaleOf(type: Plane['type']): number {
  return type === 'u8' ? 1 / 255 : type === 'u16' ? 1 / 65535 : 1;
}

type Table = Float32Array | Float64Array;

/** Looking a value up is several times faster than working it out, and a frame has millions. */
const meant = new Map<Plane['type'], Table | null>();
const tamed = new Map<Plane['type'], Table | null>();

/** What each code that a plane of this type can hold means; null where a stored value means itself. */
export function valueTable(type: Plane['type']): Table | null {
  return remembered(meant, type, () => {
    if (type === 'half') return floatOfHalf;
    const codes = type === 'u8' ? 256 : type === 'u16' ? 65536 : 0;
    return codes > 0 ? Float64Array.from({ length: codes }, (_, code) => code * scaleOf(type)) : null;
  });
}

/** The same, brought to -1..1 by {@link tame} where values may be of any size. */
export function tamedTable(type: Plane['type']): Table | null {
  const table = valueTable(type);
  return remembered(tamed, type, () => (type === 'half' ? tameAll(table!) : table));
}

/** By hand: `map` takes longer for this than all else that a check of one frame does with a thumbnail. */
function tameAll(values: Table): Table {
  const result = new Float32Array(values.length);
  for (let i = 0; i < values.length; i++) result[i] = tame(values[i]!);
  return result;
}

/** v / (1 + |v|), so that one bright pixel does not rule; what is no number counts as zero. */
export function tame(value: number): number {
  if (Number.isNaN(value)) return 0;
  return Number.isFinite(value) ? value / (1 + Math.abs(value)) : Math.sign(value);
}

function remembered(tables: Map<Plane['type'], Table | null>, type: Plane['type'], make: () => Table | null): Table | null {
  let table = tables.get(type);
  if (table === undefined) tables.set(type, (table = make()));
  return table;
}
