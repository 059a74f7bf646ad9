import { floatToHalf, halfToFloat } from '../formats/index.ts';
import { decodeSRgb, seeChannel, type Look } from './look.ts';
import type { SentPicture } from './picture-message.ts';

/** What stands in a table for values that are no finite numbers. */
const ODD = 256;
/** Opaque pixels as four bytes, the lowest first, as in every browser's memory. */
const BLACK = 0xff000000;
const pack = (seen: readonly number[]) => (BLACK | (seen[2]! << 16) | (seen[1]! << 8) | seen[0]!) >>> 0;
const ODD_COLOUR = pack([255, 0, 204]);
const ODD_SQUARE = 3;

/** Bits of a 32-bit float that are looked up by: sign, exponent and eight of the fraction, a 512th of the value at most. */
const FLOAT_SHIFT = 15;

/** A float and its bits, to look up by. */
const scratch = new Float32Array(1);
const scratchBits = new Uint32Array(scratch.buffer);

/** How the alpha of a picture is treated. */
export interface AlphaShown {
  /** The last channel is an alpha. */
  readonly hasAlpha: boolean;
  readonly straight: boolean;
  /** Linear light behind it; null to leave the alpha out. */
  readonly behind: readonly [number, number, number] | null;
}

/** A picture, and how its alpha is treated. */
export interface PictureShown {
  readonly picture: SentPicture;
  readonly alpha: AlphaShown;
}

/**
 * What is seen of colours, looked up and not worked out: 8 bits for every half float there is, made once a look. By
 * processors that have no graphics card beside them a picture is drawn so in a tenth of the time.
 */
export class SeenByTable {
  private readonly look: Look;
  private readonly tables = new Map<string, Uint16Array>();

  constructor(look: Look) {
    this.look = look;
  }

  /**
   * Writes what is seen of a picture, red, green, blue and opaque, pixel by pixel.
   *
   * @param out as many bytes as four for each pixel of the picture
   */
  see({ info, samples }: SentPicture, { hasAlpha, straight, behind }: AlphaShown, out: Uint8ClampedArray): void {
    const { type, width } = info;
    const count = info.channels.length;
    const [green, blue] = count >= 3 ? [1, 2] : [0, 0];
    const table = this.tableOf(type);
    // A float is looked up by its own bits.
    const codes = samples instanceof Float32Array ? new Uint32Array(samples.buffer, samples.byteOffset, samples.length) : samples;
    const shift = samples instanceof Float32Array ? FLOAT_SHIFT : 0;
    const mixing: Mixing | null = hasAlpha && behind !== null ? { table: this.tableOf('float'), light: lightOf(type), over: behind, straight } : null;
    const bare = mixing ? pack(mixing.over.map((light) => lookUp(mixing.table, light))) : 0;
    const opaque = samples instanceof Float32Array ? FLOAT_ONE : OPAQUE[type];
    const words = new Uint32Array(out.buffer, out.byteOffset, width * info.height);
    const last = mixing ? count - 1 : -1;
    for (let pixel = 0, from = 0; pixel < words.length; pixel++, from += count) {
      const alpha = last < 0 ? opaque : codes[from + last]!;
      if (alpha === opaque) {
        const r = table[codes[from]! >>> shift]!;
        const g = table[codes[from + green]! >>> shift]!;
        const b = table[codes[from + blue]! >>> shift]!;
        words[pixel] = (r | g | b) < ODD ? BLACK | (b << 16) | (g << 8) | r : markAt(pixel, width);
      } else if (alpha === 0 && (codes[from]! | codes[from + green]! | codes[from + blue]!) === 0) {
        words[pixel] = bare;
      } else {
        const share = type === 'half' ? halfToFloat(alpha) : samples[from + last]! / OPAQUE[type];
        const r = mix(mixing!, samples[from]!, share, 0);
        const g = mix(mixing!, samples[from + green]!, share, 1);
        const b = mix(mixing!, samples[from + blue]!, share, 2);
        words[pixel] = (r | g | b) < ODD ? BLACK | (b << 16) | (g << 8) | r : markAt(pixel, width);
      }
    }
  }

  /**
   * Writes how far the light of two pictures lies apart, as {@link see} writes one.
   *
   * @param one a picture and how its alpha is treated
   * @param other another of the same size
   * @param gain what each difference is multiplied with
   */
  seeDifference(one: PictureShown, other: PictureShown, gain: number, out: Uint8ClampedArray): void {
    const { width, height } = one.picture.info;
    const table = this.tableOf('float');
    const [light, otherLight] = [new Float32Array(3 * width), new Float32Array(3 * width)];
    const bits = new Uint32Array(light.buffer);
    const words = new Uint32Array(out.buffer, out.byteOffset, width * height);
    for (let row = 0, pixel = 0; row < height; row++) {
      writeLight(one, row, light);
      writeLight(other, row, otherLight);
      for (let i = 0; i < light.length; i++) light[i] = Math.abs(light[i]! - otherLight[i]!) * gain;
      for (let i = 0; i < light.length; i += 3, pixel++) {
        const r = table[bits[i]! >>> FLOAT_SHIFT]!;
        const g = table[bits[i + 1]! >>> FLOAT_SHIFT]!;
        const b = table[bits[i + 2]! >>> FLOAT_SHIFT]!;
        words[pixel] = (r | g | b) < ODD ? BLACK | (b << 16) | (g << 8) | r : markAt(pixel, width);
      }
    }
  }

  private tableOf(type: SentPicture['info']['type']): Uint16Array {
    const known = this.tables.get(type);
    if (known) return known;
    const { look } = this;
    const see = (light: number) => (Number.isFinite(light) ? Math.round(255 * seeChannel(light, look)) : ODD);
    let table: Uint16Array;
    if (type === 'float' || type === 'uint') {
      table = Uint16Array.from({ length: 2 ** (32 - FLOAT_SHIFT) }, (_, place) => {
        // The middle of those that share the place.
        scratchBits[0] = ((place << FLOAT_SHIFT) | (1 << (FLOAT_SHIFT - 1))) >>> 0;
        return see(scratch[0]!);
      });
      // Zero itself, and the infinities, whose middle would be no number.
      table[0] = see(0);
    } else {
      table = Uint16Array.from(lightOf(type)!, see);
    }
    this.tables.set(type, table);
    return table;
  }
}

/** The bits of 1 as a 32-bit float. */
const FLOAT_ONE = 0x3f800000;
const OPAQUE = { u8: 255, u16: 65535, half: floatToHalf(1), float: 1, uint: 1 } as const;

const lights = new Map<string, Float32Array>();

/** Linear light of every sample that there is; null for floats, which are light already. */
function lightOf(type: SentPicture['info']['type']): Float32Array | null {
  if (type === 'float' || type === 'uint') return null;
  const known = lights.get(type);
  if (known) return known;
  const most = type === 'u8' ? 256 : 65536;
  const light = Float32Array.from({ length: most }, (_, code) => (type === 'half' ? halfToFloat(code) : decodeSRgb(code / (most - 1))));
  lights.set(type, light);
  return light;
}

/** Linear light of a row over what lies behind its alpha: red, green and blue by turns. */
function writeLight({ picture: { info, samples }, alpha: { hasAlpha, straight, behind } }: PictureShown, row: number, out: Float32Array): void {
  const { width, type } = info;
  const count = info.channels.length;
  const [green, blue] = count >= 3 ? [1, 2] : [0, 0];
  const start = row * width * count;
  const light = lightOf(type);
  // Two loops: what is settled for a picture is not asked at each of its samples.
  if (light)
    for (let i = 0, from = start; i < 3 * width; i += 3, from += count) {
      out[i] = light[samples[from]!]!;
      out[i + 1] = light[samples[from + green]!]!;
      out[i + 2] = light[samples[from + blue]!]!;
    }
  else
    for (let i = 0, from = start; i < 3 * width; i += 3, from += count) {
      out[i] = samples[from]!;
      out[i + 1] = samples[from + green]!;
      out[i + 2] = samples[from + blue]!;
    }
  if (!hasAlpha || behind === null) return;
  const opaque = OPAQUE[type];
  for (let i = 0, at = start + count - 1; i < 3 * width; i += 3, at += count) {
    const sample = samples[at]!;
    if (sample === opaque) continue;
    const alpha = type === 'half' ? light![sample]! : sample / opaque;
    const through = 1 - Math.min(1, Math.max(0, alpha));
    const kept = straight ? alpha : 1;
    for (let c = 0; c < 3; c++) out[i + c] = out[i + c]! * kept + behind[c]! * through;
  }
}

interface Mixing {
  readonly table: Uint16Array;
  readonly light: Float32Array | null;
  readonly over: readonly [number, number, number];
  readonly straight: boolean;
}

/** What is seen of a sample that lets something through. @param alpha 1 for nothing */
function mix({ table, light, over, straight }: Mixing, sample: number, alpha: number, channel: 0 | 1 | 2): number {
  const own = light === null ? sample : light[sample]!;
  return lookUp(table, (straight ? own * alpha : own) + over[channel] * (1 - Math.min(1, Math.max(0, alpha))));
}

function lookUp(table: Uint16Array, light: number): number {
  scratch[0] = light;
  return table[scratchBits[0]! >>> FLOAT_SHIFT]!;
}

/** Squares that no picture has, where a value is no finite number. */
function markAt(pixel: number, width: number): number {
  return (Math.floor((pixel % width) / ODD_SQUARE) + Math.floor(Math.floor(pixel / width) / ODD_SQUARE)) % 2 === 0 ? ODD_COLOUR : BLACK;
}
