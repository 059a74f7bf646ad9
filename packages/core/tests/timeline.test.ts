import { describe, expect, it } from 'vitest';
import * as z from 'zod';
import { parseBrief, workOutOrder, writeTimeline } from '../src/index.ts';

interface Reference {
  OTIO_SCHEMA: string;
  target_url_base: string;
  name_prefix: string;
  name_suffix: string;
  start_frame: number;
  frame_step: number;
  rate: number;
  frame_zero_padding: number;
  available_range: { start_time: { value: number; rate: number }; duration: { value: number; rate: number } };
}
interface Timeline {
  OTIO_SCHEMA: string;
  name: string;
  tracks: { OTIO_SCHEMA: string; children: { name: string; kind: string; children: { media_references: { DEFAULT_MEDIA: Reference } }[] }[] };
}

const timelineOf = (brief: object) => writeTimeline(workOutOrder(parseBrief({ shot: 'orr_010', ...brief }))) as Timeline;
const referencesOf = ({ tracks }: Timeline) => tracks.children.map(({ children }) => children[0]!.media_references.DEFAULT_MEDIA);

/** The name of an image as OpenTimelineIO makes it (ImageSequenceReference::target_url_for_image_number). */
const imageOf = ({ target_url_base, name_prefix, name_suffix, start_frame, frame_step, frame_zero_padding }: Reference, i: number) =>
  `${target_url_base}${name_prefix}${String(start_frame + i * frame_step).padStart(frame_zero_padding, '0')}${name_suffix}`;
/** How many images that has (ImageSequenceReference::number_of_images_in_sequence). */
const imagesIn = ({ rate, frame_step, available_range: { duration } }: Reference) => Math.floor((rate / frame_step) * (duration.value / duration.rate) + 1e-9);

describe('a shot as a timeline', () => {
  it('has a track a pass, whose images are the ordered files', () => {
    const timeline = timelineOf({
      range: '1001-1048',
      fps: '24',
      passes: [
        { name: 'beauty', pattern: 'beauty/orr_010_beauty.####.exr' },
        { name: 'albedo', pattern: 'beauty/orr_010_beauty.####.exr' },
        { name: 'depth', pattern: 'z_%05d.exr', range: '1001-1047x2' },
      ],
    });
    expect([timeline.OTIO_SCHEMA, timeline.tracks.OTIO_SCHEMA, timeline.name]).toEqual(['Timeline.1', 'Stack.1', 'orr_010']);
    expect(timeline.tracks.children.map(({ name, kind }) => `${name} ${kind}`)).toEqual(['beauty Video', 'depth Video']);
    const [beauty, depth] = referencesOf(timeline) as [Reference, Reference];
    expect([beauty.OTIO_SCHEMA, imagesIn(beauty), imageOf(beauty, 0), imageOf(beauty, 47)]).toEqual([
      'ImageSequenceReference.1',
      48,
      './beauty/orr_010_beauty.1001.exr',
      './beauty/orr_010_beauty.1048.exr',
    ]);
    expect([imagesIn(depth), imageOf(depth, 0), imageOf(depth, 1), imageOf(depth, 23)]).toEqual([24, './z_01001.exr', './z_01003.exr', './z_01047.exr']);
    expect(depth.available_range).toMatchObject({ start_time: { value: 1001, rate: 24 }, duration: { value: 48, rate: 24 } });
  });

  it('has the rate as it is, fractions of 1001 too', () => {
    const [beauty] = referencesOf(timelineOf({ range: '1-24', fps: '23.976', passes: [{ name: 'beauty', pattern: 'b.####.exr' }] }));
    expect(beauty!.rate).toBeCloseTo(24000 / 1001, 9);
    expect(imagesIn(beauty!)).toBe(24);
  });
});

/** The fields of each schema as OpenTimelineIO's documentation of its serialized data lists them, for these versions; none may lack, none be added. */
const time = z.strictObject({ OTIO_SCHEMA: z.literal('RationalTime.1'), rate: z.number().positive(), value: z.number() });
const timeRange = z.strictObject({ OTIO_SCHEMA: z.literal('TimeRange.1'), duration: time, start_time: time });
const object = { metadata: z.record(z.string(), z.unknown()), name: z.string() };
const item = { ...object, source_range: timeRange.nullable(), effects: z.array(z.never()), markers: z.array(z.never()), enabled: z.boolean() };
const reference = z.strictObject({
  OTIO_SCHEMA: z.literal('ImageSequenceReference.1'),
  ...object,
  available_range: timeRange,
  available_image_bounds: z.null(),
  target_url_base: z.string().endsWith('/'),
  name_prefix: z.string(),
  name_suffix: z.string(),
  start_frame: z.int(),
  frame_step: z.int().positive(),
  rate: z.number().positive(),
  frame_zero_padding: z.int().min(0),
  missing_frame_policy: z.enum(['error', 'hold', 'black']),
});
const clip = z.strictObject({
  OTIO_SCHEMA: z.literal('Clip.2'),
  ...item,
  media_references: z.record(z.string(), reference),
  active_media_reference_key: z.string(),
});
const track = z.strictObject({ OTIO_SCHEMA: z.literal('Track.1'), ...item, kind: z.enum(['Video', 'Audio']), children: z.array(clip) });
const timelineSchema = z.strictObject({
  OTIO_SCHEMA: z.literal('Timeline.1'),
  ...object,
  global_start_time: time.nullable(),
  tracks: z.strictObject({ OTIO_SCHEMA: z.literal('Stack.1'), ...item, children: z.array(track) }),
});

it('a timeline has the documented fields of each of its schemas, and no others', () => {
  const passes = [
    { name: 'beauty', pattern: 'beauty/b.####.exr' },
    { name: 'depth', pattern: 'z.%05d.exr', range: '1001-1047x2' },
  ];
  for (const fps of ['24', '30000/1001']) {
    const timeline = timelineSchema.parse(timelineOf({ range: '1001-1048', fps, passes }));
    for (const { children } of timeline.tracks.children)
      for (const { media_references: references, active_media_reference_key: active } of children) expect(Object.keys(references)).toEqual([active]);
  }
});
