import type { ExrAttribute } from './header.ts';

/** Texts as an attribute holds several: each behind its length in four bytes (OpenEXR file layout, “stringvector”). */
export function stringVector(texts: readonly string[]): ExrAttribute {
  const encoded = texts.map((text) => new TextEncoder().encode(text));
  const value = new Uint8Array(encoded.reduce((sum, { length }) => sum + 4 + length, 0));
  const view = new DataView(value.buffer);
  let at = 0;
  for (const bytes of encoded) {
    view.setInt32(at, bytes.length, true);
    value.set(bytes, at + 4);
    at += 4 + bytes.length;
  }
  return { type: 'stringvector', value };
}

/** The texts of such an attribute; what reaches over its end is left out. */
export function readStringVector({ value }: ExrAttribute): string[] {
  const view = new DataView(value.buffer, value.byteOffset, value.byteLength);
  const texts: string[] = [];
  let at = 0;
  while (at + 4 <= value.length) {
    const length = view.getInt32(at, true);
    if (length < 0 || at + 4 + length > value.length) break;
    texts.push(new TextDecoder().decode(value.subarray(at + 4, at + 4 + length)));
    at += 4 + length;
  }
  return texts;
}
