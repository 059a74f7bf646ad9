import { guide, type GuideOf } from './entry.ts';

/** What is said of the pixels. */
export const pixelsGuide: GuideOf<'pixels'> = {
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
    'A stretch that is exactly zero in every channel and has straight edges (a block, whole lines), which the frames around do not have. Letterboxes and things that move are left alone. Where pixels are not packed also zeros, in whatever channel, that begin and end where blocks of a disk do. The evidence says where.',
    'A bucket that was never written, or a block that the disk never got, is a hole in the picture.',
    'Render the frame again.',
  ),
  'frozen-frame': guide(
    'A frame repeats the one before pixel by pixel, in a pass that moves. The repeats are named, not the original; where they have a rhythm, the rates that explain it are said. Passes that stand throughout, and animation on twos, are left alone.',
    'The motion stutters.',
    'Render the repeats again.',
  ),
  'copied-pass': guide(
    'A pass holds another pass’s picture, pixel by pixel. Of two alike the wrong one is that which departs from its own neighbours; where all frames are alike, the one further from the beauty.',
    'The compositor grades the wrong light.',
    'Correct the output of the pass and render it again.',
  ),
  'outdated-frame': guide(
    'A frame whose noise was taken out says in its header which file it was made of, and its original is another one now.',
    'It shows what was rendered before: what was mended since is not in it.',
    'Set it aside and have it denoised again.',
  ),
  jump: guide(
    'From one frame to the next the picture changes at least eight times as much as from frame to frame around; the first frame after the cut is named. Where the picture comes back, and where up to five frames at either end do not belong, these frames themselves are named.',
    'Another camera or scene was rendered from there on.',
    'Look at both frames; render the wrong side again.',
    'cuts, checks.jumpTimes',
  ),
  'loop-repeat': guide(
    'The last frame shows the first again: pixel by pixel, or but for its noise at a third of the distance of two neighbours.',
    'A loop with its first frame twice stutters once a turn.',
    'Leave the last frame out.',
    'loop',
  ),
  'loop-jump': guide(
    'The shot is ordered as a loop, and from its last frame to its first the picture changes at least four times as much as it does anywhere along it, or parts of it, a twenty-fourth and more, change by half as much again as they or those beside them do at any step.',
    'The loop stutters once a turn.',
    'Render the frames that lack to the turn, or say in the brief that the shot is no loop.',
    'loop',
  ),
  flicker: guide(
    'The mean luminance of single frames departs from that of the frames on either side by 2 % or more, and by far more than it does along the shot; or it goes up and down from frame to frame throughout, in the whole picture or in a part of it that the message names. Steps and slow changes are left alone.',
    'The eye sees light that pumps sooner than anything else that moves.',
    'Look at the light passes of the frames; render again what was lit otherwise.',
  ),
  fireflies: guide(
    'Single pixels far brighter than all around them and than the noise of their place, in a frame that has many more of them than the frames of its pass usually have.',
    'Each flashes for one frame, and no denoiser takes it for noise.',
    'Clamp indirect light or raise the samples of the light that makes them, and render the frames again.',
  ),
  banding: guide(
    'In more than a fiftieth of a picture of 8 bits slopes are so soft that a code value is many pixels wide, and so free of noise that the steps between code values can be seen. Of a brief: the measured gradients of a test frame have too few code values at the ordered depth.',
    'Skies and walls show contours, and more of them once the picture is graded.',
    'Write the pass with 16 bits or as half floats, or add noise of half a code value before it is rounded.',
    'passes[].depth',
  ),
};
