import { stopBands } from '@mint-tally/core';
import type { ComparedAs } from './drawn';
import type { Tiling } from './picture-texture';

/** How a picture's samples stand in the card's memory: as numbers that can be mixed, or as whole ones. */
export type SampleKind = 'float' | 'whole';

/** What is settled for one picture. */
export interface SideKind {
  readonly kind: SampleKind;
  /** 0 colour, 1 a range as grey, 2 signs, 3 numbers of things. */
  readonly mode: number;
  /** Samples across and down whose mean is shown. */
  readonly taps: number;
  readonly hasAlpha: boolean;
  /** One to four. */
  readonly channels: number;
  /** Samples are coded for screens (sRGB), not linear. */
  readonly coded: boolean;
  readonly straight: boolean;
  readonly tiling: Tiling;
}

/** What is settled for a whole drawing: each combination is a program of its own, without the questions. */
export interface ProgramKind {
  readonly side: SideKind;
  /** The picture that it is compared with; null for none. */
  readonly other: SideKind | null;
  readonly comparedAs: ComparedAs;
  /** 0 all, 1..4 one of them, 5 luminance. */
  readonly channel: number;
  /** 0 sRGB, 1 Rec. 709, 2 linear, 3 log. */
  readonly transform: number;
  /** Whether light is raised to a power before the view. */
  readonly hasGamma: boolean;
  /** A lookup table after the view: for each channel alone, or for all together. */
  readonly table: 'none' | 'line' | 'cube';
  /** What shows through the alpha. */
  readonly background: 'none' | 'colour' | 'check';
  readonly falseColour: boolean;
  readonly markRange: boolean;
  readonly outlines: boolean;
}

export const vertexShader = `#version 300 es
void main() {
  // One triangle that covers the screen.
  vec2 corner = vec2(float((gl_VertexID << 1) & 2), float(gl_VertexID & 2));
  gl_Position = vec4(corner * 2.0 - 1.0, 0.0, 1.0);
}`;

const LUMINANCE = 'vec3(0.2126, 0.7152, 0.0722)';
const asVector = (colour: readonly number[]) => `vec3(${colour.map((value) => (value / 255).toFixed(5)).join(', ')})`;
const bandCode = stopBands
  .slice(1)
  .map(({ from, colour }) => `  if (stop >= ${from.toFixed(1)}) band = ${asVector(colour)};`)
  .join('\n');

/**
 * Reads one picture and says what is seen of it; every name begins with the side's letter. Nothing is asked that is
 * settled: in software rendering each question costs every pixel, whichever way it is answered.
 */
function sideCode(
  letter: 'a' | 'b',
  { kind, mode, taps, hasAlpha, channels, coded, straight, tiling }: SideKind,
  { channel, background, falseColour, markRange }: ProgramKind,
): string {
  const isTiled = tiling.across * tiling.down > 1;
  const sampler = `${kind === 'whole' ? 'u' : ''}sampler2D${isTiled ? 'Array' : ''}`;
  const own = {
    1: 'vec4(value.rrr, 1.0)',
    2: hasAlpha ? 'vec4(value.rrr, value.g)' : 'vec4(value.rg, 0.0, 1.0)',
    3: 'vec4(value.rgb, 1.0)',
    4: 'value',
  }[channels]!;
  // The nearest sample, by its place as a share: asked for by its number it takes twice as long in software rendering.
  const fetch = isTiled ? `${letter}_fromTile(at)` : `vec4(texture(${letter}_picture, at * ${letter}_shareEach))`;
  const fromTile = `vec4 ${letter}_fromTile(vec2 at) {
  ivec2 place = clamp(ivec2(floor(at)), ivec2(0), ivec2(${letter}_size) - 1);
  ivec2 size = ivec2(${tiling.width}, ${tiling.height});
  ivec2 tile = place / size;
  return vec4(texelFetch(${letter}_picture, ivec3(place - tile * size, tile.y * ${tiling.across} + tile.x), 0));
}
`;
  const mean = `vec2 footprint = ${letter}_perPixel / zoom;
  vec4 value = vec4(0.0);
  for (int y = 0; y < ${taps}; y++) for (int x = 0; x < ${taps}; x++) {
    vec2 at = within + ((vec2(x, y) + 0.5) / ${taps}.0 - 0.5) * footprint;
    value += ${fetch};
  }
  value *= ${letter}_scale / ${taps * taps}.0;`;
  const behind = background === 'check' ? 'vec3(mod(floor(screen.x / 8.0) + floor(screen.y / 8.0), 2.0) < 1.0 ? 0.13 : 0.22)' : 'backgroundColour';
  const overBackground = `light = ${straight ? 'light * value.a' : 'light'} + ${behind} * (1.0 - clamp(value.a, 0.0, 1.0));`;
  const colour = `vec3 light = ${letter}_light(value, screen);
  ${channel >= 1 && channel <= 3 ? `light = vec3(light[${channel - 1}]);` : channel === 5 ? `light = vec3(dot(light, ${LUMINANCE}));` : ''}
  seen = ${falseColour ? `bandOf(dot(light, ${LUMINANCE}))` : 'see(light)'};`;
  const signs = `vec3 share = clamp(raw / max(max(abs(${letter}_range.x), abs(${letter}_range.y)), 1e-20), -1.0, 1.0);
  ${
    channel >= 1 && channel <= 3
      ? `float one = share[${channel - 1}];
  // Below zero in violet, above in mint; zero is grey.
  seen = one < 0.0 ? mix(vec3(0.35), vec3(0.62, 0.35, 0.95), -one) : mix(vec3(0.35), vec3(0.43, 0.91, 0.70), one);`
      : 'seen = share * 0.5 + 0.5;'
  }`;
  const range = `seen = vec3(clamp((raw.r - ${letter}_range.x) / max(${letter}_range.y - ${letter}_range.x, 1e-20), 0.0, 1.0));`;
  const alpha = `seen = vec3(clamp(${hasAlpha ? 'value.a' : '1.0'}, 0.0, 1.0));`;
  const isColour = mode === 0;
  return `
uniform highp ${sampler} ${letter}_picture;
uniform vec2 ${letter}_size;         // of the samples
uniform vec2 ${letter}_shareEach;    // what each is of them
uniform float ${letter}_scale;       // what a sample is multiplied with
uniform vec2 ${letter}_origin;       // where the first sample lies, in pixels of the display window
uniform vec2 ${letter}_perPixel;     // samples for each pixel
uniform vec2 ${letter}_range;

/** Where a place of the display window lies among the samples. */
vec2 ${letter}_within(vec2 place) {
  return (place - ${letter}_origin) * ${letter}_perPixel;
}

bool ${letter}_has(vec2 within) {
  return all(greaterThanEqual(within, vec2(0.0))) && all(lessThan(within, ${letter}_size));
}

${isTiled ? fromTile : ''}
/** The value there; where several samples fall on a pixel of the screen, their mean. */
vec4 ${letter}_read(vec2 ${taps === 1 ? 'at' : 'within'}) {
  ${taps === 1 ? `vec4 value = ${fetch} * ${letter}_scale;` : mean}
  return ${own};
}

/** Linear light over the background. */
vec3 ${letter}_light(vec4 value, vec2 screen) {
  vec3 light = ${coded ? 'decoded(value.rgb)' : 'value.rgb'};
  ${hasAlpha && background !== 'none' && channel === 0 ? overBackground : ''}
  return light;
}

vec3 ${letter}_seen(vec4 value, vec2 screen) {
  vec3 raw = value.rgb;
  vec3 seen;
  ${mode === 1 ? range : mode === 2 ? signs : mode === 3 ? 'seen = thing(raw.r);' : channel === 4 ? alpha : colour}
  ${
    isColour && markRange
      ? `if (max(raw.r, max(raw.g, raw.b)) > 1.0 && mod(screen.x + screen.y, 8.0) < 2.0) seen = vec3(1.0, 0.45, 0.3);
  if (min(raw.r, min(raw.g, raw.b)) < 0.0 && mod(screen.x - screen.y, 8.0) < 2.0) seen = vec3(0.35, 0.6, 1.0);`
      : ''
  }
  // What is no number, or infinite, times nothing is no number.
  float odd = dot(raw, vec3(0.0));
  if (!(odd == 0.0)) seen = mod(floor(screen.x / 3.0) + floor(screen.y / 3.0), 2.0) < 1.0 ? vec3(1.0, 0.0, 0.8) : vec3(0.0);
  return seen;
}
`;
}

/** What stands where both pictures are there. */
const COMPARING: Record<ComparedAs, (program: ProgramKind) => string> = {
  alone: () => 'seen = a_seen(a, screen);',
  // The line goes through a point of the screen; the other picture lies on the side that its normal points to.
  split: () =>
    'seen = dot(screen - splitPoint, splitNormal) > 0.0 ? b_seen(b, screen) : a_seen(a, screen);\n  if (abs(dot(screen - splitPoint, splitNormal)) < 1.0) seen = vec3(0.5, 0.89, 0.71);',
  difference: () => 'seen = see(abs(a_light(a, screen) - b_light(b, screen)) * gain);',
  overlay: () => 'seen = mix(a_seen(a, screen), b_seen(b, screen), opacity);',
  behind: ({ side, falseColour }) => `vec3 light = a_light(a, screen)${side.straight ? ' * a.a' : ''} + b_light(b, screen) * (1.0 - clamp(a.a, 0.0, 1.0));
  seen = ${falseColour ? `bandOf(dot(light, ${LUMINANCE}))` : 'see(light)'};`,
};

/** A picture shows through another's alpha where that one's colours are looked at. */
const canLieBehind = ({ comparedAs, side, channel }: ProgramKind) => comparedAs !== 'behind' || (side.hasAlpha && side.mode === 0 && channel === 0);

/** Where an entry's middle lies in a texture, so that what is between entries is mixed in straight lines. */
const AT_ENTRY = (encoded: string) => `vec3 at = (clamp((${encoded} - tableFrom) / (tableTo - tableFrom), 0.0, 1.0) * (tableSize - 1.0) + 0.5) / tableSize;`;
const TABLE = {
  cube: (encoded: string) => `${AT_ENTRY(encoded)}
  return clamp(texture(lookupTable, at).rgb, 0.0, 1.0);`,
  line: (encoded: string) => `${AT_ENTRY(encoded)}
  return clamp(vec3(texture(lookupTable, vec2(at.r, 0.5)).r, texture(lookupTable, vec2(at.g, 0.5)).g, texture(lookupTable, vec2(at.b, 0.5)).b), 0.0, 1.0);`,
} as const;

const OUTLINE = `{
    vec2 pixel = 1.0 / zoom;
    vec2 fromEdge = min(abs(place - dataWindow.xy), abs(place - dataWindow.zw));
    bool alongX = place.x >= dataWindow.x - pixel.x && place.x <= dataWindow.z + pixel.x;
    bool alongY = place.y >= dataWindow.y - pixel.y && place.y <= dataWindow.w + pixel.y;
    if ((fromEdge.x < pixel.x && alongY) || (fromEdge.y < pixel.y && alongX)) seen = mod(floor(screen.x / 4.0) + floor(screen.y / 4.0), 2.0) < 1.0 ? vec3(0.43, 0.91, 0.70) : vec3(0.1);
  }`;

/**
 * What is seen of a picture, or of two that are compared: everything that a person turns happens here, on what is in
 * memory already. The sums are those of core/view/look.ts.
 */
export function fragmentShader(program: ProgramKind): string {
  const { side, other, comparedAs, transform, table, hasGamma, outlines } = program;
  const encoded = [
    'encodeSRgb(exposed)',
    'pow(exposed, vec3(1.0 / 2.4))',
    'exposed',
    // 16 stops around middle grey.
    'max(vec3(0.0), (log2(exposed / 0.18) + 9.0) / 16.0)',
  ][transform]!;
  return `#version 300 es
precision highp float;
precision highp int;
out vec4 shown;
uniform vec2 displaySize;
uniform vec2 pan;          // of the display window's corner, in pixels of the screen
uniform vec2 zoom;         // pixels of the screen for each of the picture
uniform float screenHeight;
uniform float exposed2;     // two to the power of the exposure
uniform float gammaPower;
uniform vec3 backgroundColour; // linear
uniform vec4 dataWindow;   // in pixels of the display window: left, top, right, bottom, ends beyond
uniform vec2 splitPoint;
uniform vec2 splitNormal;
uniform float gain;
uniform float opacity;

${table === 'none' ? '' : `uniform highp ${table === 'cube' ? 'sampler3D' : 'sampler2D'} lookupTable;\nuniform vec3 tableFrom;\nuniform vec3 tableTo;\nuniform float tableSize;`}

vec3 decoded(vec3 value) {
  return mix(value / 12.92, pow((max(value, 0.0) + 0.055) / 1.055, vec3(2.4)), step(0.04045, value));
}

/** By three square roots instead of a power, within a quarter of a code value of 8 bits, at half of the time in software. */
vec3 encodeSRgb(vec3 light) {
  vec3 second = sqrt(light);
  vec3 fourth = sqrt(second);
  vec3 eighth = sqrt(fourth);
  vec3 power = 0.662002687 * second + 0.684122060 * fourth - 0.323583601 * eighth - 0.0225411470 * light;
  return mix(12.92 * light, power, step(0.0031308, light));
}

vec3 see(vec3 light) {
  vec3 exposed = max(light, 0.0) * exposed2;
  ${hasGamma ? 'exposed = pow(exposed, vec3(gammaPower));' : ''}
  ${table === 'none' ? `return clamp(${encoded}, 0.0, 1.0);` : TABLE[table](encoded)}
}

vec3 bandOf(float luminance) {
  float stop = log2(max(luminance, 1e-20) * exposed2 / 0.18);
  vec3 band = ${asVector(stopBands[0]!.colour)};
${bandCode}
  return band;
}

vec3 thing(float number) {
  if (number == 0.0) return vec3(0.0);
  // Far apart for neighbours: the golden angle around the hues, lightness by turns.
  float hue = fract(number * 0.61803398875) * 6.0;
  vec3 colour = clamp(vec3(abs(hue - 3.0) - 1.0, 2.0 - abs(hue - 2.0), 2.0 - abs(hue - 4.0)), 0.0, 1.0);
  return mix(vec3(0.5), colour, 0.7) * (0.65 + 0.35 * fract(number * 0.381966));
}
${sideCode('a', side, program)}
${other ? sideCode('b', other, program) : ''}
void main() {
  vec2 screen = vec2(gl_FragCoord.x, screenHeight - gl_FragCoord.y);
  vec2 place = (screen - pan) / zoom;
  bool inDisplay = all(greaterThanEqual(place, vec2(0.0))) && all(lessThan(place, displaySize));
  vec2 aWithin = a_within(place);
  bool inA = a_has(aWithin);
  vec4 a = inA ? a_read(aWithin) : vec4(0.0);
  ${other ? 'vec2 bWithin = b_within(place);\n  bool inB = b_has(bWithin);\n  vec4 b = inB ? b_read(bWithin) : vec4(0.0);' : 'const bool inB = false;'}
  vec3 seen;
  ${COMPARING[other && canLieBehind(program) ? comparedAs : 'alone'](program)}
  ${outlines ? OUTLINE : ''}
  shown = inDisplay || inA || inB ? vec4(seen, 1.0) : vec4(0.0);
}`;
}
