import { viewTransforms, type SentPicture } from '@mint-tally/core';
import { fragmentShader, vertexShader, type ProgramKind, type SampleKind } from './shader';
import { READ_AS, type Drawn } from './drawn';

/** Why nothing can be drawn. */
export class NoGraphicsError extends Error {}

/** How a kind of samples is kept on the card: one entry for one, two, three and four channels. */
interface Storage {
  readonly kind: SampleKind;
  readonly internal: readonly number[];
  readonly format: readonly number[];
  readonly type: number;
  readonly fullScale: number;
}

/** Samples across and down that a pixel of the screen takes the mean of, at most. */
const MOST_TAPS = 4;

type Uniforms = Record<string, WebGLUniformLocation | null>;

/** Draws pictures on a canvas through WebGL 2. */
export class Renderer {
  private readonly gl: WebGL2RenderingContext;
  private readonly programs = new Map<string, { program: WebGLProgram; uniforms: Uniforms }>();
  private readonly storages: Record<SentPicture['info']['type'], Storage>;
  private texture: WebGLTexture | null = null;
  private uploaded: SentPicture | null = null;
  private shape = '';
  /** Samples that a side of a texture may have. */
  readonly largest: number;

  /** @throws NoGraphicsError */
  constructor(canvas: HTMLCanvasElement) {
    const gl = canvas.getContext('webgl2', { alpha: true, antialias: false, depth: false, premultipliedAlpha: true, preserveDrawingBuffer: false });
    if (!gl) throw new NoGraphicsError('This browser has no WebGL 2.');
    this.gl = gl;
    this.largest = gl.getParameter(gl.MAX_TEXTURE_SIZE) as number;
    const floats = [gl.RED, gl.RG, gl.RGB, gl.RGBA];
    const wholes = [gl.RED_INTEGER, gl.RG_INTEGER, gl.RGB_INTEGER, gl.RGBA_INTEGER];
    this.storages = {
      u8: { kind: 'float', internal: [gl.R8, gl.RG8, gl.RGB8, gl.RGBA8], format: floats, type: gl.UNSIGNED_BYTE, fullScale: 1 },
      u16: { kind: 'whole', internal: [gl.R16UI, gl.RG16UI, gl.RGB16UI, gl.RGBA16UI], format: wholes, type: gl.UNSIGNED_SHORT, fullScale: 65535 },
      half: { kind: 'float', internal: [gl.R16F, gl.RG16F, gl.RGB16F, gl.RGBA16F], format: floats, type: gl.HALF_FLOAT, fullScale: 1 },
      float: { kind: 'float', internal: [gl.R32F, gl.RG32F, gl.RGB32F, gl.RGBA32F], format: floats, type: gl.FLOAT, fullScale: 1 },
      uint: { kind: 'whole', internal: [gl.R32UI, gl.RG32UI, gl.RGB32UI, gl.RGBA32UI], format: wholes, type: gl.UNSIGNED_INT, fullScale: 1 },
    };
    gl.bindVertexArray(gl.createVertexArray());
    gl.pixelStorei(gl.UNPACK_ALIGNMENT, 1);
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

  /** Brings a picture's samples to the card, unless they are there. */
  private upload(picture: SentPicture): Storage {
    const { gl } = this;
    const { info, samples } = picture;
    const storage = this.storages[info.type];
    if (this.uploaded === picture) return storage;
    const count = info.channels.length - 1;
    const shape = `${info.type} ${count} ${info.width} ${info.height}`;
    gl.activeTexture(gl.TEXTURE0);
    if (shape !== this.shape) {
      gl.deleteTexture(this.texture);
      this.texture = gl.createTexture();
      gl.bindTexture(gl.TEXTURE_2D, this.texture);
      for (const [name, value] of [
        [gl.TEXTURE_MIN_FILTER, gl.NEAREST],
        [gl.TEXTURE_MAG_FILTER, gl.NEAREST],
        [gl.TEXTURE_WRAP_S, gl.CLAMP_TO_EDGE],
        [gl.TEXTURE_WRAP_T, gl.CLAMP_TO_EDGE],
      ] as const)
        gl.texParameteri(gl.TEXTURE_2D, name, value);
      gl.texStorage2D(gl.TEXTURE_2D, 1, storage.internal[count]!, info.width, info.height);
      this.shape = shape;
    }
    gl.bindTexture(gl.TEXTURE_2D, this.texture);
    gl.texSubImage2D(gl.TEXTURE_2D, 0, 0, 0, info.width, info.height, storage.format[count]!, storage.type, samples);
    this.uploaded = picture;
    return storage;
  }

  /** Clears the canvas, and draws a picture on it. */
  draw(picture: SentPicture | null, drawn: Drawn | null): void {
    const { gl } = this;
    if (gl.isContextLost()) return;
    const { width, height } = gl.canvas;
    gl.viewport(0, 0, width, height);
    gl.clearColor(0, 0, 0, 0);
    gl.clear(gl.COLOR_BUFFER_BIT);
    if (!picture || !drawn) return;
    const storage = this.upload(picture);
    const { info } = picture;
    const [left, top, right, bottom] = info.dataWindow;
    // A plane that keeps every n-th pixel covers the same window with fewer samples.
    const perSample = [(info.reduce * (right - left + 1)) / info.full[0], (info.reduce * (bottom - top + 1)) / info.full[1]] as const;
    const footprint = Math.max(1 / (drawn.zoom[0] * perSample[0]), 1 / (drawn.zoom[1] * perSample[1]));
    const { program, uniforms } = this.programOf({
      kind: storage.kind,
      mode: drawn.mode,
      channel: drawn.channel,
      transform: viewTransforms.indexOf(drawn.look.transform),
      taps: drawn.mode === READ_AS.things ? 1 : Math.min(MOST_TAPS, Math.max(1, Math.ceil(footprint - 0.01))),
      hasAlpha: drawn.hasAlpha,
      throughAlpha: drawn.background !== 'none',
      falseColour: drawn.falseColour,
      markRange: drawn.markRange,
      outlines: drawn.outlines,
    });
    const [displayLeft, displayTop, displayRight, displayBottom] = info.displayWindow;
    const [dataX, dataY] = [left - displayLeft, top - displayTop];
    const at = (name: string) => uniforms[name] ?? null;
    gl.useProgram(program);
    gl.uniform1i(at('picture'), 0);
    gl.uniform2i(at('size'), info.width, info.height);
    gl.uniform1i(at('channels'), info.channels.length);
    gl.uniform1f(at('fullScale'), storage.fullScale);
    gl.uniform1i(at('coded'), info.type === 'u8' || info.type === 'u16' ? 1 : 0);
    gl.uniform2f(at('origin'), dataX + info.left, dataY + info.top);
    gl.uniform2f(at('perSample'), perSample[0], perSample[1]);
    gl.uniform2f(at('displaySize'), displayRight - displayLeft + 1, displayBottom - displayTop + 1);
    gl.uniform2f(at('pan'), drawn.pan[0], drawn.pan[1]);
    gl.uniform2f(at('zoom'), drawn.zoom[0], drawn.zoom[1]);
    gl.uniform1f(at('screenHeight'), height);
    gl.uniform2f(at('range'), drawn.range[0], drawn.range[1]);
    gl.uniform1f(at('exposure'), drawn.look.exposure);
    gl.uniform1f(at('gammaPower'), 1 / drawn.look.gamma);
    gl.uniform1i(at('background'), drawn.background === 'check' ? 1 : 0);
    const behind = drawn.background === 'check' || drawn.background === 'none' ? ([0, 0, 0] as const) : drawn.background;
    gl.uniform3f(at('backgroundColour'), behind[0], behind[1], behind[2]);
    gl.uniform1i(at('straight'), drawn.straight ? 1 : 0);
    gl.uniform4f(at('dataWindow'), dataX, dataY, dataX + right - left + 1, dataY + bottom - top + 1);
    gl.drawArrays(gl.TRIANGLES, 0, 3);
  }

  /** Forgets what the card held: after its context was lost, all is brought there anew. */
  forget(): void {
    this.programs.clear();
    this.texture = null;
    this.uploaded = null;
    this.shape = '';
    this.gl.bindVertexArray(this.gl.createVertexArray());
    this.gl.pixelStorei(this.gl.UNPACK_ALIGNMENT, 1);
  }
}
