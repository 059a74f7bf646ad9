/** Smaller arrays are copied to whoever gets them. */
const LEAST_BYTES = 4096;

type Numbers = Uint8Array | Uint16Array | Int32Array | Uint32Array | Float32Array | Float64Array;

/**
 * A value whose large arrays of numbers lie in memory that all threads see: handing it to another thread copies none of
 * them. Arrays that are one stay one. Nobody may write into them any more.
 */
export function sharedBetweenThreads<Value>(value: Value, known = new Map<Numbers, Numbers>()): Value {
  if (isNumbers(value)) return (known.get(value) ?? remember(known, value, shared(value))) as Value;
  if (Array.isArray(value)) return value.map((one: unknown) => sharedBetweenThreads(one, known)) as Value;
  if (value === null || typeof value !== 'object' || Object.getPrototypeOf(value) !== Object.prototype) return value;
  return Object.fromEntries(Object.entries(value).map(([key, one]) => [key, sharedBetweenThreads<unknown>(one, known)])) as Value;
}

function remember(known: Map<Numbers, Numbers>, from: Numbers, to: Numbers): Numbers {
  known.set(from, to);
  return to;
}

function isNumbers(value: unknown): value is Numbers {
  return ArrayBuffer.isView(value) && !(value instanceof DataView);
}

function shared(values: Numbers): Numbers {
  if (values.byteLength < LEAST_BYTES || values.buffer instanceof SharedArrayBuffer) return values;
  const kind = values.constructor as new (buffer: SharedArrayBuffer) => Numbers;
  const out = new kind(new SharedArrayBuffer(values.byteLength));
  out.set(values);
  return out;
}
