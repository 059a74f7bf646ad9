import {
  alphaOf,
  componentsOf,
  luminanceOf,
  memorySource,
  MintError,
  readBuffers,
  readVectors,
  recogniseFormat,
  sumOfLights,
  USUAL_CONVENTION,
  type Convention,
  type DecodedFrame,
  type FrameHeader,
  type FramePasses,
  type LightSum,
  type Luminance,
  type NoiseBuffers,
  type PassFrame,
} from '@mint-tally/core';
import { withFile } from '../inspection/inspect-file.ts';
import { codecTools } from '../inspection/codec-tools.ts';
import { LookingReader, type Look, type Looks } from './looks.ts';
import type { FramePlan, PassFile } from './plan.ts';

/** Reads the passes of single frames; each file is decoded once a frame, however many passes live in it. */
export class FrameReader {
  private readonly decoded = new Map<string, DecodedFrame | null>();
  private readonly sizes = new Map<string, number>();
  private readonly folder: string;
  private readonly looking: LookingReader | null;

  /** @param looks files that are looked into as well when they are read */
  constructor(folder: string, looks: Looks | null = null) {
    this.folder = folder;
    this.looking = looks && new LookingReader(folder, looks);
  }

  /** The passes of a frame for one colour pass; null where that has no picture. */
  passesOf(plan: FramePlan, pass: string): FramePasses | null {
    const colour = this.read(plan.colours[pass] ?? null);
    if (!colour) return null;
    const { albedo, normal, depth, motion } = plan.features;
    return { colour, albedo: this.read(albedo), normal: this.read(normal), depth: this.read(depth), motion: this.read(motion) };
  }

  buffersOf(plan: FramePlan, pass: string, convention: Convention): NoiseBuffers | null {
    const passes = this.passesOf(plan, pass);
    return passes && readBuffers(passes, convention);
  }

  /** What frames are held against each other with: their surfaces, as a pass shows them; without such passes the picture itself. */
  surfacesOf({ features }: FramePlan, shown: PassFile | null): NoiseBuffers | null {
    const colour = this.read(shown);
    const [albedo, normal] = [this.read(features.albedo), this.read(features.normal)];
    const depth = albedo || normal ? null : this.read(features.depth);
    return colour && readBuffers({ colour, albedo, normal, depth, motion: null }, USUAL_CONVENTION);
  }

  /** A frame's vectors as the file has them; null where they are not of the size of what is shown. */
  vectorsOf({ features }: FramePlan, shown: PassFile | null): readonly [Float32Array, Float32Array] | null {
    const [colour, motion] = [this.read(shown), this.read(features.motion)];
    const isOneSize = colour && motion && colour.frame.header.width === motion.frame.header.width && colour.frame.header.height === motion.frame.header.height;
    return isOneSize ? readVectors(colour, motion) : null;
  }

  halvesOf({ halves }: FramePlan): readonly [Luminance, Luminance] | null {
    const both = halves?.map((file) => {
      const read = this.read(file);
      return read && luminanceOf(read.frame, read.channels);
    });
    return both?.[0] && both[1] ? [both[0], both[1]] : null;
  }

  /** A pass's components in the window of the beauty; null where they cannot be read, or are of another size. */
  componentsOf(file: PassFile, { width, height }: NoiseBuffers): readonly Float32Array[] | null {
    const read = this.read(file);
    const components = read && componentsOf(read.frame, read.channels);
    return components && components.width === width && components.height === height ? components.values : null;
  }

  /** What a file says of its picture; null of one that cannot be read. */
  headerOf(file: PassFile): FrameHeader | null {
    return this.read(file)?.frame.header ?? null;
  }

  /** A pass's own alpha in the window of the beauty; null where it has none, or is of another size. */
  alphaOf(file: PassFile, { width, height, alpha }: NoiseBuffers): Float32Array | null {
    const read = alpha && this.read(file);
    const own = read && alphaOf(read);
    return own && own.length === width * height && read.frame.planes[0]!.width === width ? own : null;
  }

  /** How the light passes of a frame sum to its beauty; null where they cannot be held against it. */
  sumOf({ lights }: FramePlan, { width, height, luminance }: NoiseBuffers): LightSum | null {
    const read = lights.map((file) => {
      const light = this.read(file);
      const luminance = light && luminanceOf(light.frame, light.channels);
      return luminance && { ...luminance, pass: file.pass };
    });
    return read.every((light) => light !== null) ? sumOfLights({ width, height, values: luminance }, read) : null;
  }

  /** Bytes of a file that was read; null of others. */
  bytesOf({ path }: PassFile): number | null {
    return this.sizes.get(path) ?? null;
  }

  /** Lets go what was decoded: the next frame has other files. */
  forget(): void {
    this.decoded.clear();
    this.sizes.clear();
  }

  /** What was found of the files that were read since. */
  async takeLooks(): Promise<Look[]> {
    return (await this.looking?.take()) ?? [];
  }

  private read(file: PassFile | null): PassFrame | null {
    if (!file) return null;
    let frame = this.decoded.get(file.path);
    if (frame === undefined) this.decoded.set(file.path, (frame = this.decode(file.path)));
    return frame && { frame, channels: file.channels };
  }

  /** A file that cannot be read or decoded says nothing here; the count tells of it. */
  private decode(path: string): DecodedFrame | null {
    try {
      const looked = this.looking?.read(path);
      if (!looked) return this.decodeAlone(path);
      this.sizes.set(path, looked.size);
      return looked.frame;
    } catch (thrown) {
      if (thrown instanceof MintError) return null;
      throw thrown;
    }
  }

  private decodeAlone(path: string): DecodedFrame | null {
    return withFile(this.folder, path, (source) => {
      const held = memorySource(source.read(0, source.size));
      this.sizes.set(path, source.size);
      return recogniseFormat(held, path).open(held).decode(codecTools).frame;
    });
  }
}
