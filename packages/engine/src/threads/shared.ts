/** Smaller arrays are copied to whoever gets them. */
const LEAST_BYTES = 4096;

type Numbers = Uint8Array | Uint16Array | Int32Array | Uint32Array | Float32Array | Float64Array;

/**
 * A value whose large arrays of numbers lie in memory that all threads see: handing it to another thread copies none of
 * them. Arrays that are one stay one. Nobody may write into them any more.
 *
 * @param spare memory that nobody needs any more; what is taken of it is taken away
 */
export function sharedBetweenThreads<Value>(value: Value, spare: SharedArrayBuffer[] = []): Value {
  const known = new Map<Numbers, Numbers>();
  return eachNumbers(value, (numbers) => {
    if (numbers.byteLength < LEAST_BYTES || numbers.buffer instanceof SharedArrayBuffer) return numbers;
    let shared = known.get(numbers);
    if (!shared) known.set(numbers, (shared = copied(numbers, spare)));
    return shared;
  });
}

/** The memory of a value that all threads see. */
export function sharedMemoryOf(value: unknown): SharedArrayBuffer[] {
  const found = new Set<SharedArrayBuffer>();
  eachNumbers(value, (numbers) => {
    if (numbers.buffer instanceof SharedArrayBuffer) found.add(numbers.buffer);
    return numbers;
  });
  return [...found];
}

/** A value with something else for each of its arrays of numbers. */
function eachNumbers<Value>(value: Value, instead: (numbers: Numbers) => Numbers): Value {
  if (isNumbers(value)) return instead(value) as Value;
  if (Array.isArray(value)) return value.map((one: unknown) => eachNumbers(one, instead)) as Value;
  if (value === null || typeof value !== 'object' || Object.getPrototypeOf(value) !== Object.prototype) return value;
  return Object.fromEntries(Object.entries(value).map(([key, one]) => [key, eachNumbers<unknown>(one, instead)])) as Value;
}

function isNumbers(value: unknown): value is Numbers {
  return ArrayBuffer.isView(value) && !(value instanceof DataView);
}

function copied(values: Numbers, spare: SharedArrayBuffer[]): Numbers {
  const at = spare.findIndex(({ byteLength }) => byteLength === values.byteLength);
  const memory = at < 0 ? new SharedArrayBuffer(values.byteLength) : spare.splice(at, 1)[0]!;
  const kind = values.constructor as new (buffer: SharedArrayBuffer) => Numbers;
  const out = new kind(memory);
  out.set(values);
  return out;
}
