import { adviceCodes, type AdviceCode, type Severity } from '../brief/index.ts';
import { families, findingCodes, type FindingCode } from './codes.ts';

/** What people should know of a finding. */
export interface Guide {
  /** What it takes to raise it, and what it shows. */
  readonly raised: string;
  /** Why a compositor cares. */
  readonly why: string;
  /** What to do about it. */
  readonly remedy: string;
  /** Entries of the brief that change it, besides `severities` and `checks.off`. */
  readonly setting?: string;
}

const guide = (raised: string, why: string, remedy: string, setting?: string): Guide => ({
  raised,
  why,
  remedy,
  ...(setting === undefined ? {} : { setting }),
});

/** One entry a code. */
export const findingGuide: Record<FindingCode, Guide> = {
  'missing-frame': guide(
    'An ordered frame has no file under its name, nor under one that is nearly its name.',
    'A hole in a sequence is black in the picture, or stops the import.',
    'Copy the range and render it again. Missing frames at the border of two machines’ shares hint at a gap in the split.',
    'range, passes[].range',
  ),
  'coming-frame': guide('A running batch still has the frame to render.', 'The shot is not complete yet.', 'Wait, or look at the batch.'),
  'missing-pass': guide(
    'None of a pass’s frames has a file. It is told once with its whole range, not frame by frame.',
    'A pass that nobody switched on costs another night.',
    'Check that the pass is on and that its folder and pattern are those of the brief.',
    'passes[].pattern',
  ),
  'unexpected-frame': guide(
    'A file is named rightly, but its number is outside the ordered range or off its step.',
    'Importers take all numbers that they find, and the shot gets longer.',
    'Delete it, or widen the range in the brief.',
    'range, passes[].range',
  ),
  'unplanned-sequence': guide(
    'Two or more numbered pictures that belong to no ordered pass, by any near name.',
    'Somebody will ask whether it should be used.',
    'Order it as a pass, or move it out of the folder.',
    'passes',
  ),
  'duplicate-number': guide(
    'Two or more files claim one frame: 7 and 007, or one with another separator.',
    'Which of them is imported is chance.',
    'Look at both and keep one.',
  ),
  'stray-file': guide('A file that belongs to no pass and no sequence.', 'Clutter travels with the package.', 'Move it away, or let it be.'),
  'wrong-name': guide(
    'A file that fills a frame by a name near the pattern: another separator, case, prefix or folder. The evidence says what it should be called.',
    'It sorts elsewhere and is not imported with the others.',
    'Rename it as proposed.',
    'passes[].pattern',
  ),
  'wrong-padding': guide(
    'The number is written with other padding than ordered. A number that is longer than the padding is right.',
    'Mixed padding sorts wrongly and breaks a sequence in two.',
    'Rename it as proposed.',
    'passes[].pattern',
  ),
  'mixed-version': guide(
    'The only file of a frame is from another version (v003 among v004).',
    'A frame of yesterday’s look flashes for a twenty-fourth of a second.',
    'Render the frame in this version, or decide that the old one stands.',
    'passes[].pattern',
  ),
  'unsafe-name': guide(
    'A name with control or non-ASCII characters, blanks or dots at its ends, characters or words that some system refuses, a twin that differs only in case, or bytes that are no text.',
    'It is lost or renamed when it is copied to another system.',
    'Rename it.',
  ),
  'empty-file': guide('The file has no bytes.', 'It is a hole that looks like a frame in a listing.', 'Render the frame again.'),
  'unwritten-file': guide(
    'The file has its size, and all of its bytes are zero.',
    'The space was reserved and the picture never written; it looks whole until it is opened.',
    'Render or copy the frame again.',
  ),
  truncated: guide(
    'The file ends before its picture does: fewer bytes than header, chunk tables or closing marker ask for, or a chunk table that was never filled.',
    'It opens half, or not at all, and half a picture is easily overlooked.',
    'Render or copy the frame again. Look for a full disk at that hour.',
  ),
  corrupt: guide(
    'Checksums do not match, packed pixels do not unpack, or the header says what cannot be.',
    'It shows wrong pixels, or takes the importer down.',
    'Render or copy the frame again. A copy that damaged one file may have damaged others.',
  ),
  'wrong-format': guide(
    'The content is not what the extension says, or the extension is not that which was ordered.',
    'Importers go by the name, and fail.',
    'Render or convert the frame in the ordered format.',
    'passes[].pattern',
  ),
  'trailing-data': guide(
    'Bytes stand behind the end of the picture.',
    'Mostly harmless; at times a longer old file that was written over.',
    'Render it again where it matters.',
  ),
  unreadable: guide(
    'The file or folder cannot be opened or read, tried more than once.',
    'Nobody knows whether it is there.',
    'Mend the permission, the link or the disk, and count again.',
  ),
  'still-writing': guide(
    'The file changed while it was read, or a fresh leftover of writing stands where the frame should be.',
    'Judging it now would judge half a file.',
    'Count again in a while.',
  ),
  'not-examined': guide(
    'The file is whole by its structure, but its pixels are of a kind that is not decoded here: deep pixels, arithmetic coding, rare samples.',
    'Nothing is known to be wrong; the pixels were not looked at.',
    'Open it in the program that will use it.',
  ),
  'wrong-resolution': guide(
    'The picture (of an EXR its display window) has another size than ordered.',
    'Half resolution left on is the most expensive switch there is.',
    'Render the frames again at full size.',
    'resolution, passes[].resolution',
  ),
  'wrong-pixel-aspect': guide(
    'The pixel aspect is not the ordered one; without an order, not that of the rest of the pass.',
    'Everything round becomes an egg.',
    'Render again, or correct the aspect in the file.',
    'pixelAspect',
  ),
  'wrong-depth': guide(
    'Samples are stored with another depth than ordered.',
    'Too little bands and clips, too much costs disk and time.',
    'Render or convert the frames.',
    'passes[].depth',
  ),
  'wrong-channels': guide(
    'Channels are lacking, or there are some that nobody ordered.',
    'The compositor’s set-up looks for them by name.',
    'Switch the channels on and render again; take extra ones into the brief or out of the file.',
    'passes[].channels',
  ),
  'wrong-alpha': guide(
    'The alpha is lacking; or the file says of itself that it is straight where premultiplied is ordered, or the other way; or colours exceed the alpha in nine of ten partly covered pixels of a pass that is ordered premultiplied; or the alpha is 0 throughout under a picture; or it is 0 or 1 throughout for a frame between frames in which it varies.',
    'Edges get a dark or a bright rim, or the layer covers everything.',
    'Correct the alpha setting and render again, or order what is there.',
    'passes[].alpha',
  ),
  'flat-alpha': guide(
    'The alpha is 1 in every pixel of every frame of a pass that is ordered with alpha, while at least one pixel in fifty has no colour at all.',
    'Nothing can be put behind the picture.',
    'Render with alpha, or order none.',
    'passes[].alpha',
  ),
  'wrong-compression': guide(
    'The pixels are packed otherwise than ordered.',
    'Lossy packing cannot be undone; slow packing makes playback stutter.',
    'Render or repack.',
    'passes[].compression',
  ),
  'wrong-window': guide(
    'The display window differs from most of the pass, or the data window does where most have the same one, or it is not the ordered crop. Data windows that are cut to each picture are left alone.',
    'The picture shifts or is cut off.',
    'Render again with the region of the others.',
    'crop',
  ),
  'wrong-rate': guide(
    'The frame rate that is noted in the file is not the ordered one, or not that of the rest of the pass.',
    'An importer that believes the file changes the length of the shot.',
    'Correct the setting of the scene.',
    'fps, checks.ignoreMetadata',
  ),
  'wrong-colour-space': guide(
    'The colour space that is noted is not the ordered one, or not that of the rest of the pass.',
    'Colours shift from one frame to the next.',
    'Render again with the space of the others, or correct the note.',
    'passes[].colourSpace, checks.ignoreMetadata',
  ),
  'metadata-drift': guide(
    'Camera, renderer, version or samples that are noted in the file differ from the order or from most of the pass; a host that wrote hardly anything of it; a timecode that is out of step with the frame numbers.',
    'The frame was rendered with other settings, even if it looks right.',
    'Look at the frames beside their neighbours; render them again if it shows.',
    'sampling, version, checks.ignoreMetadata',
  ),
  'size-outlier': guide(
    'A file is three times larger or smaller than the median of the dozen on either side, and nothing else that was found explains it.',
    'Often the first sign of an empty layer or of other sampling.',
    'Look at the frame.',
    'checks.sizeTimes',
  ),
  'blank-frame': guide(
    'All pixels of a frame are the same, in a pass that shows a picture otherwise. Mattes, lights and the like are told only when the frames just before and after show something. The dark end of a fade is left alone.',
    'A black frame flashes.',
    'Render it again; look for lights or geometry that failed to load.',
  ),
  'nan-pixels': guide(
    'Pixels that hold no number; in colours also infinite ones. The evidence counts them by channel.',
    'One such pixel spreads over the picture with the first blur.',
    'Render the frames again, or have the pixels filled.',
  ),
  'missing-region': guide(
    'A stretch that is exactly zero in every channel and has straight edges (a block, whole lines), which the frames around do not have. Letterboxes and things that move are left alone. The evidence says where.',
    'A bucket that was never written is a hole in the picture.',
    'Render the frame again.',
  ),
  'frozen-frame': guide(
    'A frame repeats the one before pixel by pixel, in a pass that moves. The repeats are named, not the original. Passes that stand throughout, and animation on twos, are left alone.',
    'The motion stutters.',
    'Render the repeats again.',
  ),
  'copied-pass': guide(
    'A pass holds another pass’s picture, pixel by pixel. Of two alike the wrong one is that which departs from its own neighbours; where all frames are alike, the one further from the beauty.',
    'The compositor grades the wrong light.',
    'Correct the output of the pass and render it again.',
  ),
  jump: guide(
    'From one frame to the next the picture changes at least eight times as much as from frame to frame around; the first frame after the cut is named. A stretch that comes back is named by its first frame.',
    'Another camera or scene was rendered from there on.',
    'Look at both frames; render the wrong side again.',
    'checks.jumpTimes',
  ),
  'loop-repeat': guide(
    'The last frame shows the first again: pixel by pixel, or but for its noise at a third of the distance of two neighbours.',
    'A loop with its first frame twice stutters once a turn.',
    'Leave the last frame out.',
    'loop',
  ),
};

/** What is said of a brief before anything is rendered. */
export const adviceGuide: Record<Exclude<AdviceCode, FindingCode>, Guide> = {
  'range-short': guide(
    'The range is one frame shorter than the duration asks for.',
    'Both ends count: 0 to 90 is 91 frames.',
    'Take the proposed range.',
    'range, duration',
  ),
  'range-long': guide('The range is one frame longer than the duration asks for.', 'Both ends count.', 'Take the proposed range.', 'range, duration'),
  'duration-mismatch': guide(
    'Range, duration and sound do not have the same length.',
    'Sound without picture, or picture that is cut off.',
    'Correct the one that is wrong.',
    'range, duration, sound',
  ),
  'padding-overflow': guide(
    'The last frame has more digits than the padding.',
    'Frames sort as 1, 10, 100, 1000, 101.',
    'Widen the padding.',
    'passes[].pattern',
  ),
  'name-collision': guide('Two passes would write one file.', 'One overwrites the other.', 'Put the pass into the pattern.', 'passes[].pattern'),
  'scaled-render': guide(
    'The scale is not 100 percent, or a region is cropped.',
    'A test setting that was left on costs the night.',
    'Set it back, or mean it.',
    'scale, crop',
  ),
  'lossy-format': guide(
    'A lossy format is ordered for data, or for soft gradients.',
    'What is lost does not come back.',
    'Order a format that keeps everything.',
    'passes[].pattern, passes[].compression',
  ),
  banding: guide(
    'The measured gradients of a test frame have too few code values at the ordered depth.',
    'Skies and walls show steps.',
    'Order half floats.',
    'passes[].depth',
  ),
  'heavy-format': guide(
    '16 bit integers or 32 bit floats where half floats would do.',
    'Disk and time for nothing that shows.',
    'Order half floats.',
    'passes[].depth',
  ),
  'role-depth': guide(
    'The depth is too small for what the pass is for.',
    'A depth pass of 8 bits has 256 distances.',
    'Order float or half.',
    'passes[].depth',
  ),
  'alpha-lacking': guide('An alpha is ordered, but no channel for it.', 'There will be none.', 'Add the channel A.', 'passes[].channels'),
  'temporary-folder': guide(
    'The frames go to a folder that is cleared or synced.',
    'They are gone in the morning, or half of them are.',
    'Choose another folder.',
    '',
  ),
  'disk-short': guide(
    'The frames will not fit on the disk.',
    'The render stops in the night, and the last file is cut short.',
    'Make room, or choose another disk.',
    '',
  ),
};

const FAMILY_TITLES = { count: 'Count', names: 'Names', soundness: 'Soundness', kind: 'Kind', pixels: 'Pixels' } as const;

/** The document that lists all findings, as Markdown. */
export function writeFindingsDocument(): string {
  const lines = [
    '# Findings',
    '',
    'Every finding has a code, which does not change; scripts may rely on it. A blocker keeps the shot from being handed over, a warning and a note do not. A brief changes the severity of a code with `"severities": { "jump": "blocker" }`, and silences one with `"checks": { "off": ["stray-file"] }`. One fault is told once: there is one finding for each code, pass and differing detail, with its frames in range notation.',
  ];
  for (const family of families) {
    lines.push('', `## ${FAMILY_TITLES[family]}`);
    for (const [code, entry] of Object.entries(findingCodes))
      if (entry.family === family) lines.push(...section(code, entry, findingGuide[code as FindingCode]));
  }
  lines.push('', '## Brief', '', 'Said beside the fields of a brief, before anything is rendered. `loop-repeat` and `unsafe-name` are said here too.');
  for (const [code, entry] of Object.entries(adviceCodes))
    if (code in adviceGuide) lines.push(...section(code, entry, adviceGuide[code as keyof typeof adviceGuide]));
  return `${lines.join('\n')}\n`;
}

function section(code: string, { severity, title }: { severity: Severity; title: string }, { raised, why, remedy, setting }: Guide): string[] {
  const changes = setting
    ? ` *In the brief:* ${setting
        .split(', ')
        .map((name) => `\`${name}\``)
        .join(', ')}.`
    : '';
  return ['', `### \`${code}\``, '', `**${title}**, ${severity}. ${raised} *Why it matters:* ${why} *What to do:* ${remedy}${changes}`];
}
