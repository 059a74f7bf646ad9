import type { DecodedFrame, PixelWindow, Plane } from './frame.ts';

/**
 * A part of a decoded frame, with the data window that it would have as a file of its own. Planes of fewer pixels than the others
 * are left out: they have no such part.
 *
 * @param left first column of the part, from the first column of the planes; likewise `top`
 */
export function cropFrame({ header, planes }: DecodedFrame, [left, top, width, height]: readonly [number, number, number, number]): DecodedFrame {
  const [x, y] = header.dataWindow ?? [0, 0];
  const dataWindow: PixelWindow = [x + left, y + top, x + left + width - 1, y + top + height - 1];
  const whole = Math.max(...planes.map((plane) => plane.width * plane.height));
  return {
    header: { ...header, dataWindow, displayWindow: header.displayWindow ?? [0, 0, header.width - 1, header.height - 1] },
    planes: planes.filter((plane) => plane.width * plane.height === whole).map((plane) => cropPlane(plane, left, top, width, height)),
  };
}

function cropPlane(plane: Plane, left: number, top: number, width: number, height: number): Plane {
  const data = new (plane.data.constructor as new (length: number) => Plane['data'])(width * height);
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++) data[i] = plane.data[plane.offset + ((top + y) * plane.width + left + x) * plane.stride]!;
  return { ...plane, width, height, data, offset: 0, stride: 1 };
}
