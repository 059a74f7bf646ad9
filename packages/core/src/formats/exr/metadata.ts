import { ByteReader } from '../byte-source.ts';

const MAXIMUM_TEXT = 4096;

/** A small attribute's value as text or number; null for kinds and sizes that nobody compares. */
export function readMetadataValue(type: string, value: Uint8Array): string | number | null {
  const reader = new ByteReader(value, { littleEndian: true });
  if (type === 'string' && value.length <= MAXIMUM_TEXT) return new TextDecoder().decode(value);
  if (type === 'int' && value.length === 4) return reader.int32();
  if (type === 'float' && value.length === 4) return finiteOrNull(reader.float32());
  if (type === 'double' && value.length === 8) return finiteOrNull(reader.float64());
  if (type === 'rational' && value.length === 8) return `${reader.int32()}/${reader.uint32()}`;
  if (type === 'timecode' && value.length === 8) return reader.uint32();
  return null;
}

function finiteOrNull(value: number): number | null {
  return Number.isFinite(value) ? value : null;
}
