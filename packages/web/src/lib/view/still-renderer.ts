import { halfToFloat, decodeSRgb, seeColour, stopBands, type SentPicture } from '@mint-tally/core';
import { READ_AS, type Drawn } from './drawn';

/**
 * Draws single pictures without a graphics card, pixel by pixel of the screen, by the core's own sums: slowly, but so
 * that a still can be looked at where a browser has no WebGL 2. Of several samples on one pixel the middle one shows.
 */
export class StillRenderer {
  private readonly context: CanvasRenderingContext2D;

  constructor(canvas: HTMLCanvasElement) {
    const context = canvas.getContext('2d');
    if (!context) throw new Error('This browser cannot draw.');
    this.context = context;
  }

  clear(): void {
    const { width, height } = this.context.canvas;
    this.context.clearRect(0, 0, width, height);
  }

  /** Pictures that are compared in one place are not: the first one alone is drawn. */
  draw(picture: SentPicture, _other: SentPicture | null, drawn: Drawn): void {
    const { width, height } = this.context.canvas;
    const [first, wide] = drawn.strip ?? [0, width];
    const { info, samples } = picture;
    const count = info.channels.length;
    const scale = info.type === 'u8' ? 255 : info.type === 'u16' ? 65535 : 1;
    const read = info.type === 'half' ? halfToFloat : (sample: number) => sample / scale;
    const isCoded = info.type === 'u8' || info.type === 'u16';
    const [left, top, right, bottom] = info.dataWindow;
    const across = (info.reduce * (right - left + 1)) / info.full[0];
    const down = (info.reduce * (bottom - top + 1)) / info.full[1];
    const image = this.context.createImageData(wide, height);
    for (let y = 0; y < height; y++) {
      const row = Math.floor(((y + 0.5 - drawn.pan[1]) / drawn.zoom[1] - (top - info.displayWindow[1]) - info.top) / down);
      if (row < 0 || row >= info.height) continue;
      for (let x = 0; x < wide; x++) {
        const column = Math.floor(((first + x + 0.5 - drawn.pan[0]) / drawn.zoom[0] - (left - info.displayWindow[0]) - info.left) / across);
        if (column < 0 || column >= info.width) continue;
        const at = (row * info.width + column) * count;
        const value = (i: number) => read(samples[at + i]);
        const colour = seen(drawn, count, value, isCoded, Math.floor((first + x) / 8) + Math.floor(y / 8));
        image.data.set([colour[0] * 255, colour[1] * 255, colour[2] * 255, 255], (y * wide + x) * 4);
      }
    }
    this.context.putImageData(image, first, 0);
  }
}

function seen(drawn: Drawn, count: number, value: (channel: number) => number, isCoded: boolean, square: number): readonly [number, number, number] {
  const isGrey = count === 1 || (count === 2 && drawn.side.hasAlpha);
  const raw = [value(0), isGrey ? value(0) : value(1), isGrey ? value(0) : count > 2 ? value(2) : 0] as const;
  if (drawn.side.mode === READ_AS.range) {
    const share = Math.min(1, Math.max(0, (raw[0] - drawn.side.range[0]) / (drawn.side.range[1] - drawn.side.range[0] || 1)));
    return [share, share, share];
  }
  if (drawn.side.mode === READ_AS.signs) {
    const largest = Math.max(Math.abs(drawn.side.range[0]), Math.abs(drawn.side.range[1])) || 1;
    return [0, 1, 2].map((i) => Math.min(1, Math.max(-1, raw[i]! / largest)) * 0.5 + 0.5) as [number, number, number];
  }
  if (drawn.side.mode === READ_AS.things) {
    const share = (raw[0] * 0.618_033_988_75) % 1;
    return raw[0] === 0 ? [0, 0, 0] : [share, (share * 7) % 1, (share * 13) % 1];
  }
  const alpha = drawn.side.hasAlpha ? value(count - 1) : 1;
  if (drawn.channel === 4) return [alpha, alpha, alpha];
  const light = raw.map((one) => (isCoded ? decodeSRgb(one) : one)) as [number, number, number];
  if (drawn.background !== 'none' && drawn.side.hasAlpha && drawn.channel === 0) {
    const check = square % 2 === 0 ? 0.13 : 0.22;
    const behind = drawn.background === 'check' ? ([check, check, check] as const) : drawn.background;
    for (const i of [0, 1, 2] as const) light[i] = (drawn.side.straight ? light[i] * alpha : light[i]) + behind[i] * (1 - Math.min(1, Math.max(0, alpha)));
  }
  const luminance = 0.2126 * light[0] + 0.7152 * light[1] + 0.0722 * light[2];
  if (drawn.falseColour) {
    const stop = Math.log2((Math.max(luminance, 1e-20) * 2 ** drawn.look.exposure) / 0.18);
    const band = stopBands.findLast(({ from }) => stop >= from) ?? stopBands[0]!;
    return [band.colour[0] / 255, band.colour[1] / 255, band.colour[2] / 255];
  }
  const one = drawn.channel >= 1 && drawn.channel <= 3 ? light[drawn.channel - 1]! : drawn.channel === 5 ? luminance : null;
  const shown = one === null ? light : ([one, one, one] as const);
  return seeColour([shown[0], shown[1], shown[2]], drawn.look);
}
