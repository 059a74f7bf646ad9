import { guide, type GuideOf } from './entry.ts';

/** What is said of the kind of a file. */
export const kindGuide: GuideOf<'kind'> = {
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
  'assumed-header': guide(
    'The header leaves out what its format asks for, or says something that the rest of it contradicts; what is taken instead stands beside it.',
    'Most programs take the same; one that does not refuses the file.',
    'Nothing, as long as the next program opens it.',
  ),
  'size-outlier': guide(
    'A file is three times larger or smaller than the median of the dozen on either side, and nothing else that was found explains it.',
    'Often the first sign of an empty layer or of other sampling.',
    'Look at the frame.',
    'checks.sizeTimes',
  ),
};
