import type { AdviceCode } from '../../brief/index.ts';
import type { FindingCode } from '../codes.ts';
import { guide, type Guide } from './entry.ts';

/** What is said of a brief before anything is rendered. */
export const adviceGuide: Record<Exclude<AdviceCode, FindingCode>, Guide> = {
  'range-short': guide(
    'The range is one frame shorter than the duration asks for.',
    'Both ends count: 0 to 90 is 91 frames.',
    'Take the proposed range.',
    'range, duration',
  ),
  'range-long': guide('The range is one frame longer than the duration asks for.', 'Both ends count.', 'Take the proposed range.', 'range, duration'),
  'default-range': guide(
    'The range is 1 to 250, which nobody has confirmed: no cut and no sound has that length.',
    'A whole night renders frames that the cut does not have, or too few of them.',
    'Say how long the cut lasts, or order the range that is meant.',
    'range, duration, sound',
  ),
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
  'format-limit': guide(
    'A depth, a compression or a kind of alpha is ordered that the file format does not have.',
    'The renderer writes something else, and every frame is told as wrong.',
    'Order what the format holds, or another format.',
    'passes[].pattern, passes[].depth, passes[].compression, passes[].alpha',
  ),
  'lossy-format': guide(
    'A lossy format is ordered for data, or for soft gradients.',
    'What is lost does not come back.',
    'Order a format that keeps everything.',
    'passes[].pattern, passes[].compression',
  ),
  'heavy-format': guide(
    '16 bit integers or 32 bit floats where half floats would do, or integers of more bits than the noise of the shot leaves visible.',
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
