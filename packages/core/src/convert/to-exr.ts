import { readStringVector, stringVector, type ExrChannelData, type ExrPicture, type PixelWindow } from '../formats/index.ts';
import type { Recipe } from '../mend/index.ts';
import type { Channel, ConvertSource } from './channel.ts';
import { notesForExr } from './notes.ts';
import { roundToHalves } from '../kernels/index.ts';
import type { SampleType } from './sample-type.ts';

/** The parts of an EXR with these channels. */
export function exrParts(channels: readonly Channel[], sources: readonly ConvertSource[], recipe: Recipe, type: SampleType): ExrPicture[] {
  const parts = [...new Set(channels.map(({ part }) => part))];
  return parts.map((part) => {
    const own = channels.filter((channel) => channel.part === part);
    const { frame, attributes } = sources[own[0]!.file]!;
    const { width, height, pixelAspect } = frame.header;
    const whole: PixelWindow = [0, 0, width - 1, height - 1];
    return {
      ...(part === '' ? {} : { name: part }),
      dataWindow: frame.header.dataWindow ?? whole,
      displayWindow: frame.header.displayWindow ?? whole,
      pixelAspect: pixelAspect ?? 1,
      compression: recipe.compression,
      channels: own.map((channel) => exrChannel(channel, recipe, type)),
      ...withViews(attributes ? { metadata: {}, kept: attributes } : notesForExr(frame.header), own, recipe),
    };
  });
}

/**
 * Says which views the channels are of, where the recipe does; says none where what was kept of the source names views whose
 * channels are not here any more (OpenEXR, multi-view: the first name is the view of the plain channels).
 */
function withViews(said: Pick<ExrPicture, 'metadata' | 'kept'>, own: readonly Channel[], { views }: Recipe): Pick<ExrPicture, 'metadata' | 'kept'> {
  const kept = new Map(said.kept);
  const before = kept.get('multiView');
  if (views.length > 0) kept.set('multiView', stringVector(views));
  else if (
    before &&
    !readStringVector(before)
      .slice(1)
      .some((view) => own.some(({ name }) => name.split('.').at(-2) === view))
  )
    kept.delete('multiView');
  return { ...said, kept };
}

function exrChannel(channel: Channel, { depth }: Recipe, type: SampleType): ExrChannelData {
  const { name, kind, plane } = channel;
  // What nobody has turned is written as it stands in the file, without going through numbers.
  const raw = channel.isTouched || plane.stride !== 1 ? null : (plane.data as Uint16Array).subarray(plane.offset, plane.offset + plane.width * plane.height);
  if (kind === 'id') return { name, type: 'uint', data: raw ?? Uint32Array.from(channel.values) };
  // Channels of one file may differ: each keeps its own where nothing else is asked.
  const own = depth === 'same' && (plane.type === 'half' || plane.type === 'float') ? plane.type : type;
  if (raw && own === plane.type) return { name, type: own as 'half' | 'float', data: raw };
  return own === 'half' ? { name, type: 'half', data: roundToHalves(channel.values) } : { name, type: 'float', data: Float32Array.from(channel.values) };
}
