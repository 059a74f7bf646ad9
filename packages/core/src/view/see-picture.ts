import { halfToFloat } from '../formats/index.ts';
import { decodeSRgb } from './look.ts';
import type { SentPicture } from './picture-message.ts';
import { hasAlpha, type Reading } from './reading.ts';
import { SeenByTable } from './see-by-table.ts';

/** What a person turned before looking, for a whole sequence of pictures. */
export interface Seeing {
  readonly reading: Reading;
  /** Values that become black and white; of signed ones the largest size is used. Not used for colours and things. */
  readonly range: readonly [number, number];
  readonly straight: boolean;
  /** Linear light behind the alpha; null to leave the alpha out. */
  readonly behind: readonly [number, number, number] | null;
}

/** A picture as it is seen: three bytes a pixel. */
export interface SeenPicture {
  readonly data: Uint8Array<ArrayBuffer>;
  readonly width: number;
  readonly height: number;
}

/** What is seen of a picture in the viewer, in its display window; black, or what lies behind, where the window has no pixels. */
export function seePicture(picture: SentPicture, seeing: Seeing, table: SeenByTable): SeenPicture {
  const { info } = picture;
  const seen = new Uint8ClampedArray(info.width * info.height * 4);
  if (seeing.reading === 'colour') table.see(picture, { hasAlpha: hasAlpha(picture), straight: seeing.straight, behind: seeing.behind }, seen);
  else seeValues(picture, seeing, seen);
  return placeSeen(info, seen, emptyColour(seeing, table));
}

/** What stands where there are no pixels: nothing, over what lies behind. */
function emptyColour({ behind, reading }: Seeing, table: SeenByTable): ArrayLike<number> {
  const colour = new Uint8ClampedArray(4);
  if (behind === null || reading !== 'colour') return colour;
  const info = { type: 'float', width: 1, height: 1, channels: ['R', 'G', 'B'] } as unknown as SentPicture['info'];
  table.see({ info, samples: Float32Array.from(behind) }, { hasAlpha: false, straight: false, behind: null }, colour);
  return colour;
}

function seeValues({ info, samples }: SentPicture, { reading, range }: Seeing, out: Uint8ClampedArray): void {
  const count = info.channels.length;
  const read =
    info.type === 'half' ? halfToFloat : info.type === 'u8' ? (v: number) => v / 255 : info.type === 'u16' ? (v: number) => v / 65535 : (v: number) => v;
  const span = range[1] - range[0] || 1;
  const largest = Math.max(Math.abs(range[0]), Math.abs(range[1])) || 1;
  for (let pixel = 0; pixel < info.width * info.height; pixel++) {
    for (let c = 0; c < 3; c++) {
      const own = count === 1 ? 0 : c;
      const value = own < count ? read(samples[pixel * count + own]!) : 0;
      if (reading === 'range') out[pixel * 4 + c] = (255 * (read(samples[pixel * count]!) - range[0])) / span;
      else if (reading === 'signs') out[pixel * 4 + c] = 127.5 + 127.5 * (value / largest);
      else out[pixel * 4 + c] = 255 * thing(read(samples[pixel * count]!), c);
    }
  }
}

/** A channel of the colour for a number of a thing, far from that of the next: the golden angle around the hues, as in the viewer. */
function thing(number: number, channel: number): number {
  if (number === 0) return 0;
  const hue = ((number * 0.618_033_988_75) % 1) * 6;
  const pure = Math.min(1, Math.max(0, channel === 0 ? Math.abs(hue - 3) - 1 : 2 - Math.abs(hue - (channel === 1 ? 2 : 4))));
  return (0.5 + 0.7 * (pure - 0.5)) * (0.65 + 0.35 * ((number * 0.381_966) % 1));
}

function placeSeen(info: SentPicture['info'], seen: Uint8ClampedArray, empty: ArrayLike<number>): SeenPicture {
  const [left, top, right, bottom] = info.displayWindow;
  const [width, height] = [right - left + 1, bottom - top + 1];
  const [x0, y0] = [info.dataWindow[0] - left, info.dataWindow[1] - top];
  const data = new Uint8Array(width * height * 3);
  if (x0 > 0 || y0 > 0 || x0 + info.width < width || y0 + info.height < height) for (let i = 0; i < data.length; i++) data[i] = empty[i % 3]!;
  for (let y = Math.max(0, y0); y < Math.min(height, y0 + info.height); y++) {
    const [from, to] = [Math.max(0, x0), Math.min(width, x0 + info.width)];
    let source = ((y - y0) * info.width + from - x0) * 4;
    let target = (y * width + from) * 3;
    for (let x = from; x < to; x++, source += 4) {
      data[target++] = seen[source]!;
      data[target++] = seen[source + 1]!;
      data[target++] = seen[source + 2]!;
    }
  }
  return { data, width, height };
}

/** Linear light of a colour as a screen shows it, 0 to 255. */
export const lightOfColour = (colour: readonly [number, number, number]) => colour.map((code) => decodeSRgb(code / 255)) as [number, number, number];
