import { COMPILED_KERNELS } from './compiled.ts';

/** What ../../kernels/index.ts offers; numbers are addresses in `memory` and counts. */
export interface Exports {
  readonly memory: WebAssembly.Memory;
  firstFreeAddress(): number;
  joinHalves(split: number, out: number, size: number): void;
  splitHalves(pixels: number, out: number, size: number): void;
  addHalves(halves: number, count: number, weight: number, out: number): void;
  roundToHalves(floats: number, count: number, out: number): void;
  boxMeans(plane: number, width: number, height: number, radius: number, across: number, sums: number, out: number): void;
  pairBytes(first: number, second: number, out: number, count: number): void;
  swapShorts(at: number, size: number): void;
  unfilterRows(rows: number, out: number, rowBytes: number, height: number, bytesPerPixel: number, hasAbove: number): number;
  markZeros(data: number, pixels: number, pixelBytes: number, mask: number, map: number, first: number): void;
  zeroRuns(map: number, width: number, height: number, least: number, most: number, out: number): number;
  toSamples(coefficients: number, stride: number, blocksAcross: number, blocksDown: number, quantisation: number, out: number): void;
  widen(
    plane: number,
    stride: number,
    planeWidth: number,
    planeHeight: number,
    width: number,
    line: number,
    lines: number,
    down: number,
    sums: number,
    out: number,
  ): void;
  toRgb(
    luma: number,
    lumaStride: number,
    blue: number,
    blueStride: number,
    red: number,
    redStride: number,
    width: number,
    height: number,
    step: number,
    out: number,
  ): void;
  decodeScan(data: number, table: number): number;
  unpackLzw(packed: number, length: number, out: number, size: number): number;
  unpackHuffman(
    packed: number,
    bits: bigint,
    table: number,
    first: number,
    count: number,
    offset: number,
    sorted: number,
    runSymbol: number,
    out: number,
    size: number,
  ): number;
  undoWavelet(data: number, across: number, stepX: number, lines: number, stepY: number, plain: number): void;
  lookUp(data: number, count: number, table: number): void;
  unpackB44(packed: number, length: number, out: number, across: number, lines: number): number;
  unpackCosine(codes: number, end: number, lowest: number, channels: number, across: number, lines: number, curve: number, out: number): number;
  tellPixels(luminance: number, alpha: number, count: number, out: number): void;
  widenMask(bytes: number, count: number, out: number): void;
  highPassColumn: FilterKernel;
  laplacianColumn: FilterKernel;
  spreadColumn(column: number, next: number, tiles: number, every: number, out: number, nextOut: number): void;
  layOutColumn(column: number, next: number, tiles: number, line: number, out: number): void;
  bringStrip(
    places: number,
    others: number,
    count: number,
    luminance: number,
    otherLuminance: number,
    width: number,
    last: number,
    out: number,
    plane: number,
  ): void;
  eitherStrip(a: number, b: number, bytes: number, out: number): void;
  withinStrip(
    light: number,
    albedo: number,
    normals: number,
    plane: number,
    line: number,
    mask: number,
    tiles: number,
    all: number,
    ofShared: number,
    shared: number,
  ): void;
  rimStrip(
    near: number,
    normals: number,
    plane: number,
    mask: number,
    line: number,
    rows: number,
    flags: number,
    bent: number,
    most: number,
    edges: number,
    out: number,
  ): void;
  knownStrip(places: number, line: number, rows: number, mask: number, scratch: number, out: number): void;
  hideDepths(places: number, count: number, depths: number, others: number, farthest: number, tolerance: number): void;
  hideNormals(places: number, count: number, normals: number, plane: number, others: number, otherPlane: number, most: number): void;
  countTiles(lanes: number, line: number, tiles: number, out: number): void;
  wholeAround(mask: number, width: number, height: number, out: number): void;
  multiplyTiles(columns: number, next: number, count: number, tiles: number, grams: number): void;
  multiplyFirst(columns: number, next: number, count: number, tiles: number, weights: number, grams: number): void;
  mixTiles(squares: number, others: number, line: number, tiles: number, weights: number): void;
  fitTiles(
    columns: number,
    next: number,
    target: number,
    grams: number,
    spread: number,
    nextSpread: number,
    every: number,
    count: number,
    mask: number,
    known: number,
    line: number,
    first: number,
    end: number,
    room: number,
    squares: number,
    residuals: number,
    variances: number,
    counts: number,
    joined: number,
    weights: number,
  ): void;
  cleanStrip(plane: number, bytes: number): void;
  nearStrip(depths: number, bytes: number, farthest: number, out: number): void;
  surfaceStrip(
    light: number,
    albedo: number,
    normals: number,
    plane: number,
    depths: number,
    line: number,
    rows: number,
    most: number,
    tolerance: number,
    lit: number,
    scratch: number,
    flags: number,
    out: number,
  ): void;
  multiplyStrip(a: number, b: number, bytes: number, out: number): void;
  litStrip(light: number, albedo: number, line: number, rows: number, scratch: number, out: number): void;
  shareStrip(squares: number, luminance: number, line: number, mask: number, least: number, scratch: number, out: number): void;
  sumTiles(plane: number, line: number, mask: number, tiles: number, out: number): void;
  cutTiles(squares: number, shares: number, rims: number, line: number, tiles: number, limit: number, limitAtRims: number, out: number): void;
  togetherByPixel(planes: number, next: number, count: number, out: number): void;
  bringPixels(pixels: number, width: number, height: number, xs: number, ys: number, count: number, out: number, next: number): void;
  placesBefore(across: number, down: number, width: number, height: number, out: number): void;
  placesAfter(across: number, down: number, ownAcross: number, ownDown: number, width: number, height: number, out: number): void;
  addEdges(values: number, width: number, rows: number, farthest: number, scratch: number, out: number): void;
  denoiseStrip(
    planes: number,
    plane: number,
    line: number,
    middle: number,
    centres: number,
    rows: number,
    features: number,
    filtered: number,
    sharpness: number,
    room: number,
  ): void;
  tellNoise(
    luminance: number,
    albedo: number,
    squares: number,
    scales: number,
    tiles: number,
    ofTile: number,
    least: number,
    count: number,
    light: number,
    texture: number,
    deviation: number,
  ): void;
  tellTrust(light: number, texture: number, deviation: number, least: number, known: number, count: number, trust: number): void;
  weighNeighbour(
    luminance: number,
    grey: number,
    left: number,
    theirs: number,
    deviation: number,
    x: number,
    y: number,
    across: number,
    down: number,
    halfWay: number,
    least: number,
    most: number,
    count: number,
    apart: number,
    capped: number,
    worth: number,
  ): void;
  shareNeighbour(
    around: number,
    next: number,
    ghostAround: number,
    freeAround: number,
    ghostNext: number,
    freeNext: number,
    theirs: number,
    worth: number,
    count: number,
    share: number,
    weights: number,
    refused: number,
  ): void;
  scalePlane(plane: number, bytes: number, by: number): void;
  takeSaid(sums: number, weights: number, own: number, ownWeight: number, count: number): void;
  sumChanges(planes: number, next: number, size: number, out: number): void;
  countOdd(kind: number, planes: number, next: number, many: number, tolerance: number, alpha: number, covered: number, count: number, out: number): void;
  hasNoNumber(plane: number, count: number): number;
  hasBelow(plane: number, count: number, limit: number): number;
  factsOfBytes: FactsKernel;
  factsOfShorts: FactsKernel;
  factsOfHalves: FactsKernel;
  factsOfFloats: FactsKernel;
}

type FilterKernel = (raw: number, line: number, rows: number, mask: number, tiles: number, out: number, less: number, next: number) => void;
type FactsKernel = (data: number, count: number, stride: number, results: number) => void;

/** The kernels read and write whole vectors: so much stands free behind what they are given. */
export const MARGIN = 64;
const PAGE = 65536;

let loaded: Exports | null = null;

function kernels(): Exports {
  // Made when it is first needed: a page that only shows names never compiles it.
  loaded ??= new WebAssembly.Instance(new WebAssembly.Module(bytesOf(COMPILED_KERNELS))).exports as unknown as Exports;
  return loaded;
}

function bytesOf(base64: string): Uint8Array<ArrayBuffer> {
  const letters = atob(base64);
  const bytes = new Uint8Array(letters.length);
  for (let i = 0; i < letters.length; i++) bytes[i] = letters.charCodeAt(i);
  return bytes;
}

let tenants = 0;

/** A number that changes when somebody asks for room: what was put there before is good no longer. */
export const tenancy = () => tenants;

/** The kernels' memory with room for `size` bytes from `start` on. Grown memory is another object: ask anew for each work. */
export function room(size: number): { exports: Exports; start: number; bytes: Uint8Array } {
  const exports = kernels();
  tenants++;
  const start = exports.firstFreeAddress();
  const missing = start + size + MARGIN - exports.memory.buffer.byteLength;
  if (missing > 0) exports.memory.grow(Math.ceil(missing / PAGE));
  return { exports, start, bytes: new Uint8Array(exports.memory.buffer) };
}

/** A size with the margin, rounded up to whole vectors. */
export const aligned = (size: number) => (size + MARGIN + 15) & ~15;
