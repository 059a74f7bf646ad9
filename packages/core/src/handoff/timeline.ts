import type { Order } from '../brief/index.ts';
import { parseFrameRate, type FrameRate } from '../timing/index.ts';

/** OpenTimelineIO's file format: https://opentimelineio.readthedocs.io, "OpenTimelineIO Serialized Data Documentation". Its rates are floats. */
const time = (value: number, rate: number) => ({ OTIO_SCHEMA: 'RationalTime.1', rate, value });
const range = (start: number, duration: number, rate: number) => ({
  OTIO_SCHEMA: 'TimeRange.1',
  duration: time(duration, rate),
  start_time: time(start, rate),
});
const common = (name: string) => ({ metadata: {}, name, effects: [], markers: [], enabled: true });

/**
 * A shot as OpenTimelineIO: a track a pass, whose one clip refers to its image sequence with start, rate, step and padding, so that
 * other programs open it at the right rate without guessing. Passes that live in another's files have no track of their own.
 *
 * @param base folder of the frames as the file says it, relative to itself
 */
export function writeTimeline({ brief, passes }: Order, base = '.'): unknown {
  const rate = rateAsFloat(parseFrameRate(brief.fps ?? '24'));
  const tracks = passes.flatMap(({ pass, pattern, frames, owner }, index) => {
    if (owner !== index || frames.isEmpty) return [];
    const [first, last] = [frames.first!, frames.last!];
    const step = frames.size > 1 ? [...frames][1]! - first : 1;
    const length = Math.floor((last - first) / step) + 1;
    // Of every so many frames each stands for so long: the time is that of the shot.
    const available = range(first, length * step, rate);
    const { prefix, suffix, padding } = pattern;
    return [
      {
        OTIO_SCHEMA: 'Track.1',
        ...common(pass.name),
        kind: 'Video',
        source_range: null,
        children: [
          {
            OTIO_SCHEMA: 'Clip.2',
            ...common(`${brief.shot} ${pass.name}`),
            source_range: available,
            active_media_reference_key: 'DEFAULT_MEDIA',
            media_references: {
              DEFAULT_MEDIA: {
                OTIO_SCHEMA: 'ImageSequenceReference.1',
                metadata: {},
                name: pass.name,
                available_range: available,
                available_image_bounds: null,
                target_url_base: `${base}/${pattern.directory === '' ? '' : `${pattern.directory}/`}`,
                name_prefix: prefix,
                name_suffix: suffix,
                start_frame: first,
                frame_step: step,
                rate,
                frame_zero_padding: padding.width,
                missing_frame_policy: 'error',
              },
            },
          },
        ],
      },
    ];
  });
  return {
    OTIO_SCHEMA: 'Timeline.1',
    metadata: {},
    name: brief.shot,
    global_start_time: time(passes[0]?.frames.first ?? 0, rate),
    tracks: { OTIO_SCHEMA: 'Stack.1', ...common('tracks'), source_range: null, children: tracks },
  };
}

const rateAsFloat = ({ numerator, denominator }: FrameRate) => numerator / denominator;
