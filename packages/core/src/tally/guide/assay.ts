import { guide, type GuideOf } from './entry.ts';

/** What is said of the noise. */
export const noiseGuide: GuideOf<'noise'> = {
  noisy: guide(
    'The noise that was measured is above what the brief asks for. The message says what it is at most, and how many samples it would take.',
    'Grain that the ordered samples should not leave crawls over still surfaces, and costs a denoiser detail.',
    'Render the frames again with more samples, or denoise the pass.',
    'sampling.noise',
  ),
  'noise-shift': guide(
    'A run of frames is noisier or cleaner than those around it by a fifth or more, from one frame to the next, and by more than chance makes of it where few tiles hold the noise. Where machine or samples in the files explain it, the message names them.',
    'A patch of other noise shows as a pulse.',
    'Render the run again with the settings of the rest.',
  ),
  'unsettled-start': guide(
    'The first frames are noisier than the rest and come down to it step by step.',
    'What gathers light over frames had not gathered enough.',
    'Render from some frames earlier on, and leave those out.',
  ),
};

/** What is said of passes that do not agree. */
export const passesGuide: GuideOf<'passes'> = {
  'pass-range-mismatch': guide(
    'In a folder that is counted without a brief, a pass lacks frames that at least half of the passes of the picture have, or has some that only it has. Where a brief orders the frames, those that lack are told as missing.',
    'The layers of a composite end at different frames, and the last ones lack something.',
    'Render the frames that lack, or write a brief that says what is ordered.',
    'passes[].range',
  ),
  'window-mismatch': guide(
    'A pass that shows the picture of the beauty has, in most of its frames, another size or display window, or, where both are alike in most frames, another data window, although no size of its own is ordered for it. Lights, mattes and ids may end sooner.',
    'What is keyed or relit by the pass sits beside the picture.',
    'Render the pass again with the size and the region of the beauty.',
    'passes[].resolution, crop',
  ),
  'pass-offset': guide(
    'What changes in a pass from frame to frame fits what changes in the other passes of surfaces (albedo, normal, depth, occlusion), or in the beauty, a frame earlier or later better than in its own frame, for three frames in a row or more. Of passes that do not go together the fewer are out of step, unless the beauty clearly says otherwise; where they are as many it tells, or nothing is said. Passes that stand still are left alone.',
    'What is keyed or defocused by the pass slides off the picture.',
    'Render the pass again with the frame number of the beauty.',
  ),
  'alpha-mismatch': guide(
    'A pass has an alpha of its own, which is another than that of the beauty: in more pixels than in its other frames, or, of a light pass, in all frames. An alpha that is one value all over is left alone.',
    'Edges of the pass do not fit those of the picture that it is laid over.',
    'Render the pass again with what holds out the beauty, or hand it over without an alpha.',
  ),
  'depth-implausible': guide(
    'Pixels that the alpha covers hold a depth of zero or less, or no number, in more of the frame than the pass usually has; or the depth says that nothing is met where mattes or normals show a surface; or all distances of a frame are many times those of the frames before and behind, or parts of them, or one distance all over; or, where vectors lead to what a frame earlier hid a point, the depth puts that behind the point: it counts the other way round.',
    'Fog, defocus and holdouts have holes there.',
    'Render the depth again.',
  ),
  'normal-implausible': guide(
    'Normals of covered pixels are not of length 1 (kept as -1 to 1 or as 0 to 1), in more of the frame than the pass usually has.',
    'Light that is made from them in the composite breaks up.',
    'Render the normals again, unfiltered and in a signed format.',
  ),
  'matte-mismatch': guide(
    'A matte or occlusion holds values outside of 0 to 1, in more of the frame than the pass usually has; or the mattes of a frame do not sum to the alpha, while those of most other frames do. Of several the one that changes most is named.',
    'What it cuts out glows or goes below black.',
    'Render the pass again.',
  ),
  'id-implausible': guide(
    'An id pass holds values that are no whole numbers where the picture covers: at the edges of things they were mixed, or the pass was packed with losses.',
    'Things are picked by their number; a number between two picks neither, or a third one.',
    'Write the pass without the pixel filter, in float or whole numbers, and render it again.',
  ),
  'vector-implausible': guide(
    'The vectors of a frame, brought to the frame before, leave more than standing still does, while those of the other frames explain what moves, or while the same vectors turned round would leave much less, as is not so of most frames; or they say that a texture moves which the albedo shows at the very same place a frame before.',
    'Motion blur and denoising along them smear the frame.',
    'Render the vectors again.',
  ),
  'sum-mismatch': guide(
    'The passes of role `light`, summed, are not the beauty in more than one of a thousand pixels of a frame. The evidence says whether light lacks or is too much, and how much of it; where one light taken more or less often would make the sum fit, the message names it.',
    'A beauty that is put together again from its lights looks otherwise than it was approved.',
    'Render the passes of these frames again.',
  ),
};
