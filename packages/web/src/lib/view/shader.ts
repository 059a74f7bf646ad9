import { stopBands } from '@mint-tally/core';
import type { ComparedAs } from './drawn';

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
  /** Whether the background shows through the alpha. */
  readonly throughAlpha: boolean;
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

const asVector = (colour: readonly number[]) => `vec3(${colour.map((value) => (value / 255).toFixed(5)).join(', ')})`;
const bandCode = stopBands
  .slice(1)
  .map(({ from, colour }) => `  if (stop >= ${from.toFixed(1)}) band = ${asVector(colour)};`)
  .join('\n');

/** Reads one picture and says what is seen of it; every name begins with the side's letter. */
function sideCode(letter: 'a' | 'b', { kind, mode, taps, hasAlpha }: SideKind): string {
  const sampler = kind === 'whole' ? 'usampler2D' : 'sampler2D';
  return `
uniform highp ${sampler} ${letter}_picture;
uniform ivec2 ${letter}_size;        // of the samples
uniform int ${letter}_channels;      // of the samples
uniform float ${letter}_fullScale;   // what a sample is divided by
uniform bool ${letter}_coded;        // samples are coded for screens (sRGB), not linear
uniform vec2 ${letter}_origin;       // where the first sample lies, in pixels of the display window
uniform vec2 ${letter}_perSample;    // pixels that a sample covers
uniform vec2 ${letter}_range;
uniform bool ${letter}_straight;

vec4 ${letter}_sampleAt(ivec2 at) {
  vec4 value = vec4(texelFetch(${letter}_picture, clamp(at, ivec2(0), ${letter}_size - 1), 0)) / ${letter}_fullScale;
  if (${letter}_channels == 1) return vec4(value.rrr, 1.0);
  if (${letter}_channels == 2) return ${hasAlpha ? 'vec4(value.rrr, value.g)' : 'vec4(value.rg, 0.0, 1.0)'};
  if (${letter}_channels == 3) return vec4(value.rgb, 1.0);
  return value;
}

/** The value at a place of the display window; where several samples fall on a pixel of the screen, their mean. */
bool ${letter}_read(vec2 place, out vec4 value) {
  vec2 within = (place - ${letter}_origin) / ${letter}_perSample;
  value = vec4(0.0);
  if (any(lessThan(within, vec2(0.0))) || any(greaterThanEqual(within, vec2(${letter}_size)))) return false;
  vec2 footprint = 1.0 / (zoom * ${letter}_perSample);
  const int taps = ${taps};
  for (int y = 0; y < taps; y++) for (int x = 0; x < taps; x++) {
    vec2 offset = ((vec2(x, y) + 0.5) / float(taps) - 0.5) * footprint;
    value += ${letter}_sampleAt(ivec2(floor(taps == 1 ? within : within + offset)));
  }
  value /= float(taps * taps);
  return true;
}

/** Linear light over the background. */
vec3 ${letter}_light(vec4 value, vec2 screen) {
  vec3 light = ${letter}_coded ? decoded(value.rgb) : value.rgb;
  ${
    hasAlpha
      ? `if (throughAlpha && channel == 0) {
    vec3 behind = backgroundColour;
    if (background == 1) behind = vec3(mod(floor(screen.x / 8.0) + floor(screen.y / 8.0), 2.0) < 1.0 ? 0.13 : 0.22);
    light = (${letter}_straight ? light * value.a : light) + behind * (1.0 - clamp(value.a, 0.0, 1.0));
  }`
      : ''
  }
  return light;
}

vec3 ${letter}_seen(vec4 value, vec2 screen) {
  const int mode = ${mode};
  vec3 raw = value.rgb;
  vec3 seen;
  if (mode == 1) seen = vec3(clamp((raw.r - ${letter}_range.x) / max(${letter}_range.y - ${letter}_range.x, 1e-20), 0.0, 1.0));
  else if (mode == 2) {
    vec3 share = clamp(raw / max(max(abs(${letter}_range.x), abs(${letter}_range.y)), 1e-20), -1.0, 1.0);
    if (channel >= 1 && channel <= 3) {
      float one = share[picked];
      // Below zero in violet, above in mint; zero is grey.
      seen = one < 0.0 ? mix(vec3(0.35), vec3(0.62, 0.35, 0.95), -one) : mix(vec3(0.35), vec3(0.43, 0.91, 0.70), one);
    } else seen = share * 0.5 + 0.5;
  } else if (mode == 3) seen = thing(raw.r);
  else if (channel == 4) seen = vec3(clamp(${hasAlpha ? 'value.a' : '1.0'}, 0.0, 1.0));
  else {
    vec3 light = ${letter}_light(value, screen);
    float luminance = dot(light, vec3(0.2126, 0.7152, 0.0722));
    if (channel >= 1 && channel <= 3) light = vec3(light[picked]);
    else if (channel == 5) light = vec3(luminance);
    seen = falseColour ? bandOf(luminance) : see(light);
  }
  if (isOdd(raw.r) || isOdd(raw.g) || isOdd(raw.b)) return mod(floor(screen.x / 3.0) + floor(screen.y / 3.0), 2.0) < 1.0 ? vec3(1.0, 0.0, 0.8) : vec3(0.0);
  if (markRange && mode == 0) {
    if (max(raw.r, max(raw.g, raw.b)) > 1.0 && mod(screen.x + screen.y, 8.0) < 2.0) seen = vec3(1.0, 0.45, 0.3);
    if (min(raw.r, min(raw.g, raw.b)) < 0.0 && mod(screen.x - screen.y, 8.0) < 2.0) seen = vec3(0.35, 0.6, 1.0);
  }
  return seen;
}
`;
}

/** What stands where both pictures are there. */
const COMPARING: Record<ComparedAs, string> = {
  alone: 'seen = a_seen(a, screen);',
  // The line goes through a point of the screen; the other picture lies on the side that its normal points to.
  split:
    'seen = dot(screen - splitPoint, splitNormal) > 0.0 ? b_seen(b, screen) : a_seen(a, screen);\n  if (abs(dot(screen - splitPoint, splitNormal)) < 1.0) seen = vec3(0.5, 0.89, 0.71);',
  difference: 'seen = see(abs(a_light(a, screen) - b_light(b, screen)) * gain);',
  overlay: 'seen = mix(a_seen(a, screen), b_seen(b, screen), opacity);',
};

/**
 * What is seen of a picture, or of two that are compared: everything that a person turns happens here, on what is in
 * memory already. The sums are those of core/view/look.ts.
 */
export function fragmentShader(program: ProgramKind): string {
  const { side, other, comparedAs, channel, transform } = program;
  const flag = (name: 'throughAlpha' | 'falseColour' | 'markRange' | 'outlines') => `const bool ${name} = ${String(program[name])};`;
  return `#version 300 es
precision highp float;
precision highp int;
out vec4 shown;
const int channel = ${channel};
const int picked = ${Math.min(2, Math.max(0, channel - 1))};
const int transform = ${transform};
${flag('throughAlpha')}
${flag('falseColour')}
${flag('markRange')}
${flag('outlines')}
uniform vec2 displaySize;
uniform vec2 pan;          // of the display window's corner, in pixels of the screen
uniform vec2 zoom;         // pixels of the screen for each of the picture
uniform float screenHeight;
uniform float exposure;
uniform float gammaPower;
uniform int background;    // 0 a colour, 1 a check
uniform vec3 backgroundColour; // linear
uniform vec4 dataWindow;   // in pixels of the display window: left, top, right, bottom, ends beyond
uniform vec2 splitPoint;
uniform vec2 splitNormal;
uniform float gain;
uniform float opacity;

vec3 decoded(vec3 value) {
  return mix(value / 12.92, pow((max(value, 0.0) + 0.055) / 1.055, vec3(2.4)), step(0.04045, value));
}

vec3 encodeSRgb(vec3 light) {
  return mix(12.92 * light, 1.055 * pow(light, vec3(1.0 / 2.4)) - 0.055, step(0.0031308, light));
}

vec3 see(vec3 light) {
  vec3 exposed = max(light, 0.0) * exp2(exposure);
  if (gammaPower != 1.0) exposed = pow(exposed, vec3(gammaPower));
  vec3 coloured = exposed;
  if (transform == 0) coloured = encodeSRgb(exposed);
  else if (transform == 1) coloured = pow(exposed, vec3(1.0 / 2.4));
  else if (transform == 3) coloured = max(vec3(0.0), (log2(exposed / 0.18) + 9.0) / 16.0);
  return clamp(coloured, 0.0, 1.0);
}

vec3 bandOf(float luminance) {
  float stop = log2(max(luminance, 1e-20) * exp2(exposure) / 0.18);
  vec3 band = ${asVector(stopBands[0]!.colour)};
${bandCode}
  return band;
}

bool isOdd(float value) {
  return isnan(value) || isinf(value);
}

vec3 thing(float number) {
  if (number == 0.0) return vec3(0.0);
  // Far apart for neighbours: the golden angle around the hues, lightness by turns.
  float hue = fract(number * 0.61803398875) * 6.0;
  vec3 colour = clamp(vec3(abs(hue - 3.0) - 1.0, 2.0 - abs(hue - 2.0), 2.0 - abs(hue - 4.0)), 0.0, 1.0);
  return mix(vec3(0.5), colour, 0.7) * (0.65 + 0.35 * fract(number * 0.381966));
}
${sideCode('a', side)}
${other ? sideCode('b', other) : ''}
void main() {
  vec2 screen = vec2(gl_FragCoord.x, screenHeight - gl_FragCoord.y);
  vec2 place = (screen - pan) / zoom;
  bool inDisplay = all(greaterThanEqual(place, vec2(0.0))) && all(lessThan(place, displaySize));
  vec4 a;
  bool inPicture = a_read(place, a);
  ${other ? 'vec4 b;\n  inPicture = b_read(place, b) || inPicture;' : ''}
  if (!inDisplay && !inPicture) {
    shown = vec4(0.0);
    return;
  }
  vec3 seen;
  ${COMPARING[other ? comparedAs : 'alone']}
  if (outlines) {
    vec2 pixel = 1.0 / zoom;
    vec2 fromEdge = min(abs(place - dataWindow.xy), abs(place - dataWindow.zw));
    bool alongX = place.x >= dataWindow.x - pixel.x && place.x <= dataWindow.z + pixel.x;
    bool alongY = place.y >= dataWindow.y - pixel.y && place.y <= dataWindow.w + pixel.y;
    if ((fromEdge.x < pixel.x && alongY) || (fromEdge.y < pixel.y && alongX)) seen = mod(floor(screen.x / 4.0) + floor(screen.y / 4.0), 2.0) < 1.0 ? vec3(0.43, 0.91, 0.70) : vec3(0.1);
  }
  shown = vec4(seen, 1.0);
}`;
}
