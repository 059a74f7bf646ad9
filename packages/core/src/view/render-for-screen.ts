import { halfToFloat, type DecodedFrame, type Plane } from '../formats/index.ts';
import { planesNamed } from './choose-planes.ts';
import { placeInDisplay, type Picture } from './place-in-display.ts';
import { encodeSRgb } from './srgb.ts';

/**
 * Turns planes into sRGB bytes: colour as it is (scene-linear floats through the sRGB curve), a
 * vector's components from -1..1, a single float channel such as depth spread over its own range,
 * near bright and far dark.
 *
 * @param channels of the layer that is shown; null for whatever the file shows by itself
 * @returns null when the frame has none of them
 */
export function renderForScreen(frame: DecodedFrame, channels: readonly string[] | null): Picture | null {
  const own = frame.planes.filter((plane) => channels === null || channels.includes(plane.channel));
  if (own.length === 0) return null;
  const { width, height } = own[0]!;
  const alike = own.filter((plane) => plane.width === width && plane.height === height);
  const planes = planesNamed(alike, 'RGB', true) ?? planesNamed(alike, 'XYZ', true) ?? alike.slice(0, 1);
  const data = new Uint8Array(width * height * 3);
  const integers = planes[0]!.type === 'u8' || planes[0]!.type === 'u16';
  const isVector = planes.length === 3 && !integers && !/(^|\.)[RGB]$/.test(planes[0]!.channel);
  const toByte = integers
    ? null
    : planes.length === 1 && !/(^|\.)[AY]$/.test(planes[0]!.channel)
      ? spreadMapper(planes[0]!)
      : isVector
        ? vectorMapper
        : linearMapper;
  for (let c = 0; c < 3; c++) {
    const plane = planes[Math.min(c, planes.length - 1)]!;
    fillChannel(data, c, plane, toByte);
  }
  return placeInDisplay({ data, width, height }, frame.header);
}

type Mapper = (value: number) => number;

function fillChannel(data: Uint8Array, channel: number, plane: Plane, toByte: Mapper | null): void {
  const { data: source, offset, stride } = plane;
  const count = plane.width * plane.height;
  if (toByte === null) {
    const shift = plane.type === 'u16' ? 8 : 0;
    for (let i = 0; i < count; i++) data[i * 3 + channel] = source[offset + i * stride] >> shift;
  } else if (plane.type === 'half') {
    // 65,536 values at most: worked out once each.
    const table = new Uint8Array(65536);
    for (let bits = 0; bits < 65536; bits++) table[bits] = toByte(halfToFloat(bits));
    for (let i = 0; i < count; i++) data[i * 3 + channel] = table[source[offset + i * stride]];
  } else {
    for (let i = 0; i < count; i++) data[i * 3 + channel] = toByte(source[offset + i * stride]);
  }
}

function linearMapper(value: number): number {
  return Math.round(encodeSRgb(value) * 255);
}

function vectorMapper(value: number): number {
  const scaled = (value + 1) * 127.5;
  return scaled > 0 ? Math.min(255, Math.round(scaled)) : 0;
}

/** A curve over a plane's own range. Far values as large as "nothing there" stay out of it. */
function spreadMapper(plane: Plane): Mapper {
  const decode = plane.type === 'half' ? halfToFloat : (value: number) => value;
  let low = Infinity;
  let high = -Infinity;
  const count = plane.width * plane.height;
  for (let i = 0; i < count; i++) {
    const value = decode(plane.data[plane.offset + i * plane.stride]);
    if (!Number.isFinite(value) || Math.abs(value) >= 60_000) continue;
    if (value < low) low = value;
    if (value > high) high = value;
  }
  const span = high > low ? high - low : 1;
  return (value) => {
    const share = (value - low) / span;
    return Number.isNaN(share) ? 0 : Math.round(255 * (1 - Math.min(1, Math.max(0, share))));
  };
}
