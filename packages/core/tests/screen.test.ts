import { describe, expect, it } from 'vitest';
import {
  encodeExr,
  encodePng,
  floatToHalf,
  inspectFrameFile,
  memorySource,
  renderForScreen,
  type DecodedFrame,
  type ExrChannelData,
  type PixelWindow,
} from '../src/index.ts';
import { tools } from './tools.ts';

function decoded(bytes: Uint8Array, name: string): DecodedFrame {
  const { facts, frame } = inspectFrameFile(memorySource(bytes), name, 'full', tools);
  expect(facts.problem).toBeNull();
  return frame!;
}

/** An EXR of these channels, each given by its values. */
function exr(channels: Record<string, number[]>, dataWindow: PixelWindow, displayWindow = dataWindow, type: 'half' | 'float' = 'half'): DecodedFrame {
  const list = Object.entries(channels).map(([name, values]): ExrChannelData => ({
    name,
    type,
    data: type === 'half' ? Uint16Array.from(values, floatToHalf) : Float32Array.from(values),
  }));
  return decoded(encodeExr({ dataWindow, displayWindow, pixelAspect: 1, compression: 'zip', channels: list, metadata: {} }, tools), 'a.exr');
}

const row: PixelWindow = [0, 0, 2, 0];

describe('a frame on the screen', () => {
  it('shows scene-linear colour through the sRGB curve, and nothing for what is not a number', () => {
    const frame = exr({ R: [0, 0.5, NaN], G: [0.0031308, 1, -1], B: [0.18, 40, Infinity] }, row);
    expect([...renderForScreen(frame, null)!.data]).toEqual([0, 10, 118, 188, 255, 255, 0, 0, 255]);
  });

  it('shows code values as they are, 16 bits by their upper half', () => {
    const png = encodePng({ width: 1, height: 1, samplesPerPixel: 3, data: Uint16Array.of(0x12ff, 0x8000, 0xffff) }, tools);
    expect([...renderForScreen(decoded(png, 'a.png'), null)!.data]).toEqual([0x12, 0x80, 0xff]);
  });

  it('spreads depth over its own range, near bright, and leaves out what is nowhere', () => {
    const { data } = renderForScreen(exr({ Z: [2, 6, 1e10] }, row, row, 'float'), null)!;
    expect([data[0], data[3], data[6]]).toEqual([255, 0, 0]);
  });

  it('shows a vector’s components around middle grey', () => {
    const { data } = renderForScreen(exr({ X: [-1, 0, 1], Y: [0, 0, 0], Z: [1, 1, 1] }, row), null)!;
    expect([data[0], data[3], data[6], data[1], data[2]]).toEqual([0, 128, 255, 128, 255]);
  });

  it('shows the layer of a pass that shares its file', () => {
    const frame = exr({ R: [0, 0, 0], G: [0, 0, 0], B: [0, 0, 0], 'glow.R': [1, 1, 1], 'glow.G': [0, 0, 0], 'glow.B': [1, 1, 1] }, row);
    expect([...renderForScreen(frame, ['glow.R', 'glow.G', 'glow.B'])!.data.subarray(0, 3)]).toEqual([255, 0, 255]);
    expect([...renderForScreen(frame, null)!.data.subarray(0, 3)]).toEqual([0, 0, 0]);
  });

  it('puts a data window where it belongs in the display window', () => {
    const frame = exr({ R: [1, 1, 1, 1], G: [1, 1, 1, 1], B: [1, 1, 1, 1] }, [-1, 0, 0, 1], [0, 0, 2, 2]);
    const { data, width, height } = renderForScreen(frame, null)!;
    expect([width, height]).toEqual([3, 3]);
    expect(Array.from({ length: 9 }, (_, i) => data[i * 3])).toEqual([255, 0, 0, 255, 0, 0, 0, 0, 0]);
  });

  it('does not believe a display window that no picture has', () => {
    const frame = exr({ R: [1], G: [1], B: [1] }, [0, 0, 0, 0], [0, 0, 1_000_000, 1_000_000]);
    expect(renderForScreen(frame, null)).toMatchObject({ width: 1, height: 1 });
  });
});
