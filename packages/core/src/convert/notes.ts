import { isStorageAttribute, type ExrAttribute, type ExrPicture, type FrameHeader } from '../formats/index.ts';
import { FrameRateError, parseFrameRate } from '../timing/index.ts';

/** What a file of another format notes, as attributes of an EXR: those that have a type of their own in it get that. */
export function notesForExr({ metadata }: FrameHeader): Pick<ExrPicture, 'metadata' | 'kept'> {
  const kept = new Map<string, ExrAttribute>();
  const notes: Record<string, ExrPicture['metadata'][string]> = {};
  for (const [name, value] of Object.entries(metadata)) {
    // What says how the pixels of the other file were kept is not true of this one.
    if (isStorageAttribute(name) || name.length > 255) continue;
    const typed = name === 'framesPerSecond' ? rational(value) : name === 'timeCode' ? timecode(value) : null;
    if (typed) kept.set(name, typed);
    else if (typeof value === 'string') notes[name] = value;
    else notes[name] = Number.isInteger(value) && Math.abs(value) < 2 ** 31 ? { int: value } : { float: value };
  }
  return { metadata: notes, kept };
}

function words(type: string, ...values: number[]): ExrAttribute {
  const value = new Uint8Array(4 * values.length);
  values.forEach((word, i) => new DataView(value.buffer).setUint32(4 * i, word, true));
  return { type, value };
}

function rational(value: string | number): ExrAttribute | null {
  try {
    const { numerator, denominator } = parseFrameRate(String(value));
    return words('rational', numerator, denominator);
  } catch (thrown) {
    if (thrown instanceof FrameRateError) return null;
    throw thrown;
  }
}

/** Time and flags as SMPTE ST 12-1 packs them; the other word holds what users put there. */
function timecode(value: string | number): ExrAttribute | null {
  const bits = Number(value);
  return Number.isInteger(bits) && bits >= 0 && bits < 2 ** 32 ? words('timecode', bits, 0) : null;
}
