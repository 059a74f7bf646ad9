import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { checkWav, FrameFileError, memorySource, readWavHeader } from '../src/index.ts';

const text = (value: string) => [...value].map((letter) => letter.charCodeAt(0));
const le = (value: number, bytes: number) => Array.from({ length: bytes }, (_, i) => Math.floor(value / 256 ** i) % 256);

interface Sound {
  channels?: number;
  rate?: number;
  bits?: number;
  samples?: number;
  /** Chunks that stand before the samples. */
  before?: number[];
  form?: 'RIFF' | 'RF64';
  /** What the header claims, where it lies. */
  claimed?: number;
  after?: number[];
}

/** A WAV file as its specification lays it out. */
function wav({ channels = 2, rate = 48_000, bits = 16, samples = 480, before = [], form = 'RIFF', claimed, after = [] }: Sound = {}): Uint8Array {
  const block = (channels * bits) / 8;
  const format = [...text('fmt '), ...le(16, 4), ...le(1, 2), ...le(channels, 2), ...le(rate, 4), ...le(rate * block, 4), ...le(block, 2), ...le(bits, 2)];
  const data = [...text('data'), ...le(claimed ?? samples * block, 4), ...new Array<number>(samples * block).fill(7), ...after];
  const body = [...text('WAVE'), ...before, ...format, ...data];
  return Uint8Array.from([...text(form), ...le(body.length, 4), ...body]);
}

const check = (bytes: Uint8Array) => checkWav(memorySource(bytes));
const codeOf = (bytes: Uint8Array) => {
  try {
    check(bytes);
    return null;
  } catch (thrown) {
    expect(thrown).toBeInstanceOf(FrameFileError);
    return (thrown as FrameFileError).code;
  }
};

describe('a sound file', () => {
  it.each<[Sound, number]>([
    [{}, 480],
    [{ channels: 1, bits: 24, samples: 44_100, rate: 44_100 }, 44_100],
    [{ channels: 6, bits: 32, samples: 11 }, 11],
    [{ before: [...text('LIST'), ...le(5, 4), 1, 2, 3, 4, 5, 0] }, 480],
    [{ after: [...text('LIST'), ...le(4, 4), 1, 2, 3, 4] }, 480],
    [{ form: 'RF64', before: [...text('ds64'), ...le(28, 4), ...le(0, 8), ...le(480 * 4, 8), ...le(480, 8), ...le(0, 4)], claimed: 0xffffffff }, 480],
  ])('is as long as its samples say (%#)', (sound, samples) => {
    const { header, samples: counted } = check(wav(sound));
    expect(counted).toBe(samples);
    expect(header).toMatchObject({ channels: sound.channels ?? 2, sampleRate: sound.rate ?? 48_000, bitsPerSample: sound.bits ?? 16 });
  });

  it('is truncated at whatever length it is cut', () => {
    const whole = wav();
    for (let length = 1; length < whole.length; length += 13) expect(codeOf(whole.slice(0, length))).toBe('truncated');
    expect(codeOf(new Uint8Array(0))).toBe('empty-file');
  });

  it('that a recorder never finished is told as such', () => {
    expect(codeOf(wav({ claimed: 0 }))).toBe('truncated');
    expect(codeOf(wav({ claimed: 0xffffffff }))).toBe('truncated');
    expect(check(wav({ samples: 0 })).samples).toBe(0);
  });

  it('is no sound when its header makes none', () => {
    expect(codeOf(wav({ channels: 0 }))).toBe('corrupt');
    expect(codeOf(wav({ rate: 0 }))).toBe('corrupt');
    expect(codeOf(Uint8Array.from(text('RIFF....AVI LIST')))).toBe('wrong-format');
    expect(codeOf(Uint8Array.from([...text('RIFF'), ...le(4, 4), ...text('WAVE'), ...text('data'), ...le(4, 4), 1, 2, 3, 4]))).toBe('corrupt');
  });

  it('neither loops nor reads past its end for a hostile header', () => {
    const empty = [...text('JUNK'), ...le(0, 4)];
    expect(codeOf(Uint8Array.from([...text('RIFF'), ...le(4, 4), ...text('WAVE'), ...new Array(20_000).fill(empty).flat()]))).toBe('corrupt');
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 200 }), fc.nat(30), (bytes, at) => {
        const sound = wav({ samples: 4 });
        sound.set(bytes.subarray(0, Math.max(0, sound.length - at)), at);
        try {
          readWavHeader(memorySource(sound));
        } catch (thrown) {
          expect(thrown).toBeInstanceOf(FrameFileError);
        }
      }),
    );
  });
});
