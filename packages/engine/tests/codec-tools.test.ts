import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { codecTools } from '../src/inspection/codec-tools.ts';

describe('inflating', () => {
  it('gives back what was packed, whatever its size and however well it packs', () => {
    const bytes = fc.oneof(
      fc.uint8Array({ maxLength: 3000 }),
      fc.tuple(fc.nat(255), fc.integer({ min: 1, max: 200_000 })).map(([value, length]) => new Uint8Array(length).fill(value)),
    );
    fc.assert(
      fc.property(bytes, fc.nat(100), (wanted, more) => {
        const found = codecTools.inflate(codecTools.deflate(wanted), wanted.length + more);
        expect(Buffer.compare(found, wanted)).toBe(0);
      }),
    );
  });

  it('stops where it is told to, and says so in words of ours', () => {
    fc.assert(
      fc.property(fc.integer({ min: 2, max: 100_000 }), fc.integer({ min: 1, max: 99_999 }), (length, less) => {
        const limit = Math.max(1, length - less);
        if (limit >= length) return;
        expect(() => codecTools.inflate(codecTools.deflate(new Uint8Array(length)), limit)).toThrow(
          `it inflates to more than ${limit.toLocaleString('en')} bytes`,
        );
      }),
    );
  });

  it('does not take a damaged or a cut stream for a whole one', () => {
    const packed = codecTools.deflate(Uint8Array.from({ length: 5000 }, (_, i) => (i * i) & 255));
    for (const cut of [1, 10, packed.length - 1]) expect(() => codecTools.inflate(packed.subarray(0, cut), 5000)).toThrow();
    const damaged = packed.slice();
    damaged[packed.length - 2] ^= 1;
    expect(() => codecTools.inflate(damaged, 5000)).toThrow();
  });
});
