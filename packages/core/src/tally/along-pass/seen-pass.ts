import { layerOf, readThumbnail, type ChannelFacts, type LayerFacts } from '../../assay/index.ts';
import type { Order, OrderedPass, PassRole } from '../../brief/index.ts';
import { isAlphaName, type FrameHeader } from '../../formats/index.ts';
import type { FileFacts } from '../../inspection/index.ts';
import type { Assignment } from '../assign.ts';
import type { ListedFile } from '../listing.ts';
import { roleByName } from '../propose.ts';

/** One frame of a pass whose file is whole, with what is known of it. */
export interface SeenFrame {
  readonly frame: number;
  readonly file: ListedFile;
  readonly facts: FileFacts;
  readonly header: FrameHeader;
  /** The pass's own channels; empty where the pixels were not decoded. */
  readonly channels: readonly ChannelFacts[];
  readonly layer: LayerFacts | null;
  /** Read from the layer when it is first asked for. */
  readonly thumbnail: Float32Array | null;
  /** Stands for the picture: equal for equal ones; null where it is not known. */
  readonly picture: string | null;
  /** Whether its colours are one value all over. */
  readonly isBlank: boolean;
  /** Of another version or size, or a stopgap: told already, and no measure for its neighbours. */
  readonly isOdd: boolean;
}

/** A pass as it was found, frame by frame, ascending. */
export interface SeenPass {
  readonly index: number;
  readonly ordered: OrderedPass;
  readonly name: string;
  readonly role: PassRole;
  readonly ownsFiles: boolean;
  readonly frames: readonly SeenFrame[];
}

/** Gathers what is known along every pass: one whole file a frame, no frame that two files claim. */
export function gatherSeenPasses(
  order: Order,
  assignment: Assignment,
  factsOf: (file: ListedFile) => FileFacts | null,
  isStopgap: (owner: string, frame: number) => boolean = () => false,
): SeenPass[] {
  return order.passes.map((ordered, index) => {
    const shared = order.passes.filter((other) => other.owner === ordered.owner).length > 1;
    const frames: SeenFrame[] = [];
    for (const [frame, claims] of assignment.claims[ordered.owner]!) {
      if (claims.length !== 1 || !ordered.frames.has(frame)) continue;
      const { file, relation } = claims[0]!;
      const facts = factsOf(file);
      if (!facts?.header || facts.problem !== null || relation === 'format') continue;
      const { header } = facts;
      const otherSize = ordered.resolution !== null && (header.width !== ordered.resolution[0] || header.height !== ordered.resolution[1]);
      const isOdd = relation === 'version' || otherSize || isStopgap(order.passes[ordered.owner]!.pass.name, frame);
      frames.push(new Seen(frame, file, facts, header, ownPixels(ordered, shared, facts), isOdd));
    }
    frames.sort((a, b) => a.frame - b.frame);
    return { index, ordered, name: ordered.pass.name, role: roleOf(order, ordered), ownsFiles: ordered.owner === index, frames };
  });
}

class Seen implements SeenFrame {
  private read: Float32Array | null | undefined;
  readonly channels: readonly ChannelFacts[];
  readonly layer: LayerFacts | null;
  readonly picture: string | null;
  readonly isBlank: boolean;

  constructor(
    readonly frame: number,
    readonly file: ListedFile,
    readonly facts: FileFacts,
    readonly header: FrameHeader,
    own: Pick<SeenFrame, 'channels' | 'layer'>,
    readonly isOdd: boolean,
  ) {
    this.channels = own.channels;
    this.layer = own.layer;
    this.picture = own.layer?.picture ?? null;
    this.isBlank = isOneValue(own.channels);
  }

  get thumbnail(): Float32Array | null {
    return (this.read ??= this.layer && readThumbnail(this.layer.thumbnail));
  }
}

/** The role as ordered, else as the name suggests; a pass that is alone is the beauty. */
function roleOf(order: Order, { pass, pattern }: OrderedPass): PassRole {
  if (pass.role) return pass.role;
  if (order.passes.length === 1) return 'beauty';
  const byName = roleByName(pass.name);
  return byName !== 'other' ? byName : roleByName(`${pattern.directory} ${pattern.prefix}`);
}

function ownPixels(ordered: OrderedPass, shared: boolean, facts: FileFacts): Pick<SeenFrame, 'channels' | 'layer'> {
  const { pixels } = facts;
  if (!pixels) return { channels: [], layer: null };
  const own = shared && ordered.pass.channels ? new Set(ordered.pass.channels) : null;
  const channels = own ? pixels.channels.filter((channel) => own.has(channel.name)) : pixels.channels;
  const name = own && channels.length > 0 ? layerOf(channels[0]!.name) : null;
  const layer = (name === null ? pixels.layers[0] : pixels.layers.find((candidate) => candidate.name === name)) ?? null;
  return { channels, layer };
}

/** Whether the colours of a frame are one value all over. */
function isOneValue(channels: readonly ChannelFacts[]): boolean {
  const colours = channels.filter(({ name }) => !isAlphaName(name));
  const looked = colours.length > 0 ? colours : channels;
  return looked.length > 0 && looked.every(({ min, max, nan, infinite }) => min !== null && min === max && nan === 0 && infinite === 0);
}

/** The value that turns up most, the first among equals, and how often. */
export function commonest<Value>(values: readonly Value[]): { value: Value; count: number } | null {
  const counts = new Map<Value, number>();
  for (const value of values) counts.set(value, (counts.get(value) ?? 0) + 1);
  let best: { value: Value; count: number } | null = null;
  for (const [value, count] of counts) if (best === null || count > best.count) best = { value, count };
  return best;
}
