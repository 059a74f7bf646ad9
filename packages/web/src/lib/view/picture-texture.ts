import type { SentPicture } from '@mint-tally/core';
import type { SampleKind } from './shader';

/** Why a picture cannot be brought to the card: it has not that much memory. */
export class NoRoomError extends Error {}

/** How a kind of samples is kept on the card: one entry for one, two, three and four channels. */
export interface Storage {
  readonly kind: SampleKind;
  readonly internal: readonly number[];
  readonly format: readonly number[];
  readonly type: number;
  readonly fullScale: number;
}

/** How each type of samples is kept: as half floats or as the whole numbers that they are. */
export function storagesOf(gl: WebGL2RenderingContext): Record<SentPicture['info']['type'], Storage> {
  const floats = [gl.RED, gl.RG, gl.RGB, gl.RGBA];
  const wholes = [gl.RED_INTEGER, gl.RG_INTEGER, gl.RGB_INTEGER, gl.RGBA_INTEGER];
  return {
    u8: { kind: 'float', internal: [gl.R8, gl.RG8, gl.RGB8, gl.RGBA8], format: floats, type: gl.UNSIGNED_BYTE, fullScale: 1 },
    u16: { kind: 'whole', internal: [gl.R16UI, gl.RG16UI, gl.RGB16UI, gl.RGBA16UI], format: wholes, type: gl.UNSIGNED_SHORT, fullScale: 65535 },
    half: { kind: 'float', internal: [gl.R16F, gl.RG16F, gl.RGB16F, gl.RGBA16F], format: floats, type: gl.HALF_FLOAT, fullScale: 1 },
    float: { kind: 'float', internal: [gl.R32F, gl.RG32F, gl.RGB32F, gl.RGBA32F], format: floats, type: gl.FLOAT, fullScale: 1 },
    uint: { kind: 'whole', internal: [gl.R32UI, gl.RG32UI, gl.RGB32UI, gl.RGBA32UI], format: wholes, type: gl.UNSIGNED_INT, fullScale: 1 },
  };
}

/** How a picture lies on the card: in tiles of one size, one where the card takes it in one piece. */
export interface Tiling {
  readonly across: number;
  readonly down: number;
  readonly width: number;
  readonly height: number;
}

/** @param largest samples that a side of a texture may have */
export function tilingOf({ width, height }: SentPicture['info'], largest: number): Tiling {
  const across = Math.ceil(width / largest);
  const down = Math.ceil(height / largest);
  return { across, down, width: Math.ceil(width / across), height: Math.ceil(height / down) };
}

/** A texture of the card that holds one picture after the other. */
export class PictureTexture {
  private readonly gl: WebGL2RenderingContext;
  private readonly largest: number;
  private texture: WebGLTexture | null = null;
  private shape = '';
  /** The picture that lies in it. */
  holds: SentPicture | null = null;

  constructor(gl: WebGL2RenderingContext, largest: number) {
    this.gl = gl;
    this.largest = largest;
  }

  /**
   * Binds the texture to a unit, and brings a picture's samples there, unless they are.
   *
   * @throws NoRoomError
   */
  bind(unit: number, picture: SentPicture, storage: Storage): void {
    const { gl } = this;
    const tiling = tilingOf(picture.info, this.largest);
    const isTiled = tiling.across * tiling.down > 1;
    const target = isTiled ? gl.TEXTURE_2D_ARRAY : gl.TEXTURE_2D;
    const { width, height, type, channels } = picture.info;
    const shape = `${type} ${channels.length} ${width} ${height}`;
    gl.activeTexture(gl.TEXTURE0 + unit);
    if (shape !== this.shape) this.make(target, tiling, storage.internal[channels.length - 1]!, shape);
    else gl.bindTexture(target, this.texture);
    if (this.holds === picture) return;
    const format = storage.format[channels.length - 1]!;
    if (isTiled) this.fillTiles(tiling, picture, format, storage.type);
    else gl.texSubImage2D(target, 0, 0, 0, width, height, format, storage.type, picture.samples);
    this.holds = picture;
  }

  private make(target: number, { across, down, width, height }: Tiling, internal: number, shape: string): void {
    const { gl } = this;
    const tiles = across * down;
    gl.deleteTexture(this.texture);
    this.holds = null;
    this.shape = '';
    this.texture = gl.createTexture();
    gl.bindTexture(target, this.texture);
    for (const filter of [gl.TEXTURE_MIN_FILTER, gl.TEXTURE_MAG_FILTER]) gl.texParameteri(target, filter, gl.NEAREST);
    for (const wrap of [gl.TEXTURE_WRAP_S, gl.TEXTURE_WRAP_T]) gl.texParameteri(target, wrap, gl.CLAMP_TO_EDGE);
    if (tiles === 1) gl.texStorage2D(target, 1, internal, width, height);
    else {
      if (tiles > (gl.getParameter(gl.MAX_ARRAY_TEXTURE_LAYERS) as number)) throw new NoRoomError('The graphics card does not take so many tiles.');
      // Errors of before are not this one's.
      while (gl.getError() !== gl.NO_ERROR && !gl.isContextLost());
      gl.texStorage3D(target, 1, internal, width, height, tiles);
      if (gl.getError() === gl.OUT_OF_MEMORY) throw new NoRoomError('The graphics card has not the memory for this picture.');
    }
    this.shape = shape;
  }

  private fillTiles(tiling: Tiling, { info, samples }: SentPicture, format: number, type: number): void {
    const { gl } = this;
    gl.pixelStorei(gl.UNPACK_ROW_LENGTH, info.width);
    for (let tile = 0; tile < tiling.across * tiling.down; tile++) {
      const left = (tile % tiling.across) * tiling.width;
      const top = Math.floor(tile / tiling.across) * tiling.height;
      const [wide, high] = [Math.min(tiling.width, info.width - left), Math.min(tiling.height, info.height - top)];
      gl.pixelStorei(gl.UNPACK_SKIP_PIXELS, left);
      gl.pixelStorei(gl.UNPACK_SKIP_ROWS, top);
      gl.texSubImage3D(gl.TEXTURE_2D_ARRAY, 0, 0, 0, tile, wide, high, 1, format, type, samples);
    }
    for (const name of [gl.UNPACK_ROW_LENGTH, gl.UNPACK_SKIP_PIXELS, gl.UNPACK_SKIP_ROWS]) gl.pixelStorei(name, 0);
    if (gl.getError() === gl.OUT_OF_MEMORY) throw new NoRoomError('The graphics card has not the memory for this picture.');
  }
}
