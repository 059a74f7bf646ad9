import { lookUpColour, viewTransforms, type LookupTable, type SentPicture } from '@mint-tally/core';
import { READ_AS, type Drawn, type Side } from './drawn';
import { PictureTexture, storagesOf, tilingOf, type Storage } from './picture-texture';
import { fragmentShader, vertexShader, type ProgramKind, type SideKind } from './shader';

/** Why nothing can be drawn. */
export class NoGraphicsError extends Error {}

/** Samples across and down that a pixel of the screen takes the mean of, at most. */
const MOST_TAPS = 4;

/** Entries of a table for each channel alone, at most: every card has textures so wide. */
const LONGEST_LINE = 2048;

/** The entries of such a table, as many as wanted. */
function lineOf(table: LookupTable, size: number): Float32Array {
  if (size === table.size) return table.values;
  const between = (i: number, side: 0 | 1 | 2) => table.from[side] + ((table.to[side] - table.from[side]) * i) / (size - 1);
  return Float32Array.from(Array.from({ length: size }, (_, i) => lookUpColour(table, [between(i, 0), between(i, 1), between(i, 2)])).flat());
}

type Uniforms = Record<string, WebGLUniformLocation | null>;

/** Draws pictures on a canvas through WebGL 2. */
export class Renderer {
  private readonly gl: WebGL2RenderingContext;
  private readonly programs = new Map<string, { program: WebGLProgram; uniforms: Uniforms }>();
  private readonly storages: Record<SentPicture['info']['type'], Storage>;
  /** What the card holds: the picture, and the one that it is compared with. */
  private slots: readonly [PictureTexture, PictureTexture];
  private table: { readonly of: LookupTable; readonly texture: WebGLTexture | null; readonly size: number } | null = null;
  /** Samples that a side of a texture may have. */
  private readonly largest: number;

  /** @throws NoGraphicsError */
  constructor(canvas: HTMLCanvasElement) {
    const gl = canvas.getContext('webgl2', { alpha: true, antialias: false, depth: false, premultipliedAlpha: true, preserveDrawingBuffer: false });
    if (!gl) throw new NoGraphicsError('This browser has no WebGL 2.');
    this.gl = gl;
    this.largest = gl.getParameter(gl.MAX_TEXTURE_SIZE) as number;
    this.storages = storagesOf(gl);
    this.slots = this.emptySlots();
    gl.bindVertexArray(gl.createVertexArray());
    gl.pixelStorei(gl.UNPACK_ALIGNMENT, 1);
  }

  /** Whether the card is none, but a program that does a card's work. */
  get isSoftware(): boolean {
    const { gl } = this;
    const named = gl.getExtension('WEBGL_debug_renderer_info');
    const name: unknown = named && gl.getParameter(named.UNMASKED_RENDERER_WEBGL);
    return typeof name === 'string' && /swiftshader|llvmpipe|softpipe|software/i.test(name);
  }

  get isLost(): boolean {
    return this.gl.isContextLost();
  }

  private programOf(kind: ProgramKind): { program: WebGLProgram; uniforms: Uniforms } {
    const key = JSON.stringify(kind);
    const known = this.programs.get(key);
    if (known) return known;
    const { gl } = this;
    const program = gl.createProgram();
    for (const [type, source] of [
      [gl.VERTEX_SHADER, vertexShader],
      [gl.FRAGMENT_SHADER, fragmentShader(kind)],
    ] as const) {
      const shader = gl.createShader(type)!;
      gl.shaderSource(shader, source);
      gl.compileShader(shader);
      gl.attachShader(program, shader);
    }
    gl.linkProgram(program);
    if (!gl.getProgramParameter(program, gl.LINK_STATUS) && !gl.isContextLost()) {
      const logs = (gl.getAttachedShaders(program) ?? []).map((shader) => gl.getShaderInfoLog(shader)).join(' ');
      throw new NoGraphicsError(`The graphics card does not take the viewer's program: ${gl.getProgramInfoLog(program) ?? ''} ${logs}`);
    }
    const uniforms: Uniforms = {};
    const count = gl.getProgramParameter(program, gl.ACTIVE_UNIFORMS) as number;
    for (let i = 0; i < count; i++) {
      const { name } = gl.getActiveUniform(program, i)!;
      uniforms[name] = gl.getUniformLocation(program, name);
    }
    const made = { program, uniforms };
    this.programs.set(key, made);
    return made;
  }

  private emptySlots(): readonly [PictureTexture, PictureTexture] {
    return [new PictureTexture(this.gl, this.largest), new PictureTexture(this.gl, this.largest)];
  }

  /** Brings a picture to the card. @throws NoRoomError */
  private place(picture: SentPicture, unit: 0 | 1): Storage {
    // The one that it was compared with may be the one that is looked at now.
    if (unit === 0 && this.slots[0].holds !== picture && this.slots[1].holds === picture) this.slots = [this.slots[1], this.slots[0]];
    const storage = this.storages[picture.info.type];
    this.slots[unit].bind(unit, picture, storage);
    return storage;
  }

  /** Clears the canvas; pictures are then drawn on it one after the other. */
  clear(): void {
    const { gl } = this;
    gl.disable(gl.SCISSOR_TEST);
    gl.viewport(0, 0, gl.canvas.width, gl.canvas.height);
    gl.clearColor(0, 0, 0, 0);
    gl.clear(gl.COLOR_BUFFER_BIT);
  }

  /** Draws a picture, or two in one place. @throws NoRoomError */
  draw(picture: SentPicture, other: SentPicture | null, drawn: Drawn): void {
    const { gl } = this;
    if (gl.isContextLost()) return;
    const { width, height } = gl.canvas;
    // Pixels beside the picture are not asked about: in software each costs as much as one of it.
    const [x, y, wide, high] = boundsOf(picture, other, drawn, width, height);
    if (wide <= 0 || high <= 0) return;
    gl.enable(gl.SCISSOR_TEST);
    gl.scissor(x, height - y - high, wide, high);
    // In this order, since the first may take the other's place.
    const storage = this.place(picture, 0);
    const otherStorage = other && this.place(other, 1);
    const { program, uniforms } = this.programOf({
      side: this.sideKind(picture, storage, drawn.side, drawn.zoom),
      other: other && otherStorage ? this.sideKind(other, otherStorage, drawn.other, drawn.zoom) : null,
      comparedAs: other ? drawn.comparedAs : 'alone',
      channel: drawn.channel,
      transform: viewTransforms.indexOf(drawn.look.transform),
      table: !drawn.look.table ? 'none' : drawn.look.table.isCube ? 'cube' : 'line',
      hasGamma: drawn.look.gamma !== 1,
      background: drawn.background === 'check' || drawn.background === 'none' ? drawn.background : 'colour',
      falseColour: drawn.falseColour,
      markRange: drawn.markRange,
      outlines: drawn.outlines,
    });
    const at = (name: string) => uniforms[name] ?? null;
    gl.useProgram(program);
    this.tellSide('a', 0, picture, storage, drawn.side, at);
    if (other && otherStorage) this.tellSide('b', 1, other, otherStorage, drawn.other, at);
    const { dataWindow, displayWindow } = picture.info;
    const [dataX, dataY] = [dataWindow[0] - displayWindow[0], dataWindow[1] - displayWindow[1]];
    gl.uniform2f(at('displaySize'), displayWindow[2] - displayWindow[0] + 1, displayWindow[3] - displayWindow[1] + 1);
    gl.uniform2f(at('pan'), drawn.pan[0], drawn.pan[1]);
    gl.uniform2f(at('zoom'), drawn.zoom[0], drawn.zoom[1]);
    gl.uniform1f(at('screenHeight'), height);
    gl.uniform1f(at('exposed2'), 2 ** drawn.look.exposure);
    gl.uniform1f(at('gammaPower'), 1 / drawn.look.gamma);
    if (drawn.look.table) this.tellTable(drawn.look.table, at);
    const behind = drawn.background === 'check' || drawn.background === 'none' ? ([0, 0, 0] as const) : drawn.background;
    gl.uniform3f(at('backgroundColour'), behind[0], behind[1], behind[2]);
    gl.uniform4f(at('dataWindow'), dataX, dataY, dataX + dataWindow[2] - dataWindow[0] + 1, dataY + dataWindow[3] - dataWindow[1] + 1);
    gl.uniform2f(at('splitPoint'), drawn.splitPoint[0], drawn.splitPoint[1]);
    gl.uniform2f(at('splitNormal'), drawn.splitNormal[0], drawn.splitNormal[1]);
    gl.uniform1f(at('gain'), drawn.gain);
    gl.uniform1f(at('opacity'), drawn.opacity);
    gl.viewport(0, 0, width, height);
    gl.drawArrays(gl.TRIANGLES, 0, 3);
    gl.disable(gl.SCISSOR_TEST);
  }

  private sideKind({ info }: SentPicture, { kind }: Storage, { mode, hasAlpha, straight }: Side, zoom: readonly [number, number]): SideKind {
    const [across, down] = perSampleOf(info);
    const footprint = Math.max(1 / (zoom[0] * across), 1 / (zoom[1] * down));
    const taps = mode === READ_AS.things ? 1 : Math.min(MOST_TAPS, Math.max(1, Math.ceil(footprint - 0.01)));
    const coded = info.type === 'u8' || info.type === 'u16';
    return { kind, mode, hasAlpha, straight, taps, channels: info.channels.length, coded, tiling: tilingOf(info, this.largest) };
  }

  private tellSide(
    letter: 'a' | 'b',
    unit: number,
    { info }: SentPicture,
    { fullScale }: Storage,
    side: Side,
    at: (name: string) => WebGLUniformLocation | null,
  ): void {
    const { gl } = this;
    const perSample = perSampleOf(info);
    gl.uniform1i(at(`${letter}_picture`), unit);
    gl.uniform2f(at(`${letter}_size`), info.width, info.height);
    gl.uniform2f(at(`${letter}_shareEach`), 1 / info.width, 1 / info.height);
    gl.uniform1f(at(`${letter}_scale`), 1 / fullScale);
    gl.uniform2f(at(`${letter}_origin`), info.dataWindow[0] - info.displayWindow[0] + info.left, info.dataWindow[1] - info.displayWindow[1] + info.top);
    gl.uniform2f(at(`${letter}_perPixel`), 1 / perSample[0], 1 / perSample[1]);
    gl.uniform2f(at(`${letter}_range`), side.range[0], side.range[1]);
  }

  /** Brings a lookup table to the card, unless it is there, and says where it is. */
  private tellTable(table: LookupTable, at: (name: string) => WebGLUniformLocation | null): void {
    const { gl } = this;
    const target = table.isCube ? gl.TEXTURE_3D : gl.TEXTURE_2D;
    gl.activeTexture(gl.TEXTURE2);
    if (this.table?.of !== table) {
      if (this.table) gl.deleteTexture(this.table.texture);
      const texture = gl.createTexture();
      gl.bindTexture(target, texture);
      for (const filter of [gl.TEXTURE_MIN_FILTER, gl.TEXTURE_MAG_FILTER]) gl.texParameteri(target, filter, gl.LINEAR);
      for (const wrap of [gl.TEXTURE_WRAP_S, gl.TEXTURE_WRAP_T, gl.TEXTURE_WRAP_R]) gl.texParameteri(target, wrap, gl.CLAMP_TO_EDGE);
      // Half floats are mixed by every card; they keep more steps than a screen shows.
      const size = table.isCube ? table.size : Math.min(table.size, LONGEST_LINE);
      if (table.isCube) gl.texImage3D(target, 0, gl.RGB16F, size, size, size, 0, gl.RGB, gl.FLOAT, table.values);
      else gl.texImage2D(target, 0, gl.RGB16F, size, 1, 0, gl.RGB, gl.FLOAT, lineOf(table, size));
      this.table = { of: table, texture, size };
    }
    gl.bindTexture(target, this.table.texture);
    gl.uniform1i(at('lookupTable'), 2);
    gl.uniform3f(at('tableFrom'), ...table.from);
    gl.uniform3f(at('tableTo'), ...table.to);
    gl.uniform1f(at('tableSize'), this.table.size);
  }

  /** Forgets what the card held: after its context was lost, all is brought there anew. */
  forget(): void {
    this.programs.clear();
    this.slots = this.emptySlots();
    this.table = null;
    this.gl.bindVertexArray(this.gl.createVertexArray());
    this.gl.pixelStorei(this.gl.UNPACK_ALIGNMENT, 1);
  }
}

/** Pixels that a sample covers: a plane that keeps every n-th pixel covers the same window with fewer samples. */
function perSampleOf({ reduce, full, dataWindow: [left, top, right, bottom] }: SentPicture['info']): readonly [number, number] {
  return [(reduce * (right - left + 1)) / full[0], (reduce * (bottom - top + 1)) / full[1]];
}

/** Where on the screen anything of the pictures can lie: left, top, width and height in whole pixels, an outline's width around them. */
function boundsOf(
  picture: SentPicture,
  other: SentPicture | null,
  { pan, zoom, strip }: Drawn,
  width: number,
  height: number,
): readonly [number, number, number, number] {
  const edges = [picture, other].flatMap((one) => (one ? [placesOf(one.info)] : []));
  const least = (side: 0 | 1) => Math.floor(pan[side] + Math.min(...edges.map((edge) => edge[side])) * zoom[side]) - 2;
  const most = (side: 0 | 1) => Math.ceil(pan[side] + Math.max(...edges.map((edge) => edge[side + 2]!)) * zoom[side]) + 2;
  const [first, end] = strip ? [strip[0], strip[0] + strip[1]] : [0, width];
  const [left, top] = [Math.max(first, least(0)), Math.max(0, least(1))];
  return [left, top, Math.min(end, most(0)) - left, Math.min(height, most(1)) - top];
}

/** Left, top, right and bottom of display and data window together, in pixels of the display window. */
function placesOf({ dataWindow, displayWindow }: SentPicture['info']): readonly number[] {
  const [x, y] = [displayWindow[0], displayWindow[1]];
  return [
    Math.min(dataWindow[0], x) - x,
    Math.min(dataWindow[1], y) - y,
    Math.max(dataWindow[2], displayWindow[2]) + 1 - x,
    Math.max(dataWindow[3], displayWindow[3]) + 1 - y,
  ];
}
