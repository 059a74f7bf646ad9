import { describe, expect, it } from 'vitest';
import { memorySource, NotRewrittenError, recogniseFormat, rewriteExr } from '../src/index.ts';
import { fixture, tools } from './tools.ts';

const opened = (bytes: Uint8Array) => {
  const source = memorySource(bytes);
  const open = recogniseFormat(source, 'frame.exr').open(source);
  return { source, header: open.header, frame: open.decode(tools).frame };
};

const values = ({ data, offset, stride, width, height }: ReturnType<typeof opened>['frame']['planes'][number]) =>
  Array.from({ length: width * height }, (_, i) => data[offset + i * stride]!);

describe('a file that the OpenEXR library wrote, written anew', () => {
  it.each([
    ...['none', 'rle', 'zips', 'zip', 'piz', 'pxr24', 'b44', 'dwaa'].map((compression) => [`rgba_half_${compression}`] as const),
    ...['window_half_zip', 'tiled_half_zip', 'layers_half_piz', 'id_uint_zip', 'z_float_zip'].map((name) => [name] as const),
  ])('%s has the same pixels, windows and notes', (name) => {
    const { source, header, frame } = opened(fixture(`exr/${name}.exr`));
    const made = opened(rewriteExr(source, frame, new Map(), { denoised: 'not at all' }, tools));
    const isKept = ['none', 'rle', 'zips', 'zip'].includes(header.compression);
    expect(made.header.compression).toBe(isKept ? header.compression : 'zip');
    expect(made.header.metadata).toEqual({ ...header.metadata, denoised: 'not at all' });
    expect([made.header.channels, made.header.dataWindow, made.header.displayWindow, made.header.pixelAspect]).toEqual([
      header.channels,
      header.dataWindow,
      header.displayWindow,
      header.pixelAspect,
    ]);
    expect(made.frame.planes.map(({ channel, type }) => [channel, type])).toEqual(frame.planes.map(({ channel, type }) => [channel, type]));
    made.frame.planes.forEach((plane, i) => expect(values(plane)).toEqual(values(frame.planes[i]!)));
  });

  it('has other values where they were changed, and nowhere else', () => {
    const { source, frame } = opened(fixture('exr/rgba_half_zip.exr'));
    const count = frame.planes[0]!.width * frame.planes[0]!.height;
    const made = opened(rewriteExr(source, frame, new Map([['G', new Float32Array(count).fill(0.5)]]), {}, tools));
    for (const plane of made.frame.planes) {
      const before = values(frame.planes.find(({ channel }) => channel === plane.channel)!);
      // 0.5 as a half.
      expect(values(plane)).toEqual(plane.channel === 'G' ? before.map(() => 0x3800) : before);
    }
  });

  it('keeps names that are longer than 31 letters', () => {
    const { source, frame } = opened(fixture('exr/rgba_half_zip.exr'));
    const long = 'aNameThatIsLongerThanThirtyOneLetters';
    expect(opened(rewriteExr(source, frame, new Map(), { [long]: 'kept' }, tools)).header.metadata[long]).toBe('kept');
  });

  it('is refused with several parts', () => {
    const { source, frame } = opened(fixture('exr/parts_float_zip.exr'));
    expect(() => rewriteExr(source, frame, new Map(), {}, tools)).toThrow(NotRewrittenError);
  });
});
