import { guide, type GuideOf } from './entry.ts';

/** What is said of the number of files. */
export const countGuide: GuideOf<'count'> = {
  'missing-frame': guide(
    'An ordered frame has no file under its name, nor under one that is nearly its name.',
    'A hole in a sequence is black in the picture, or stops the import.',
    'Copy the range and render it again. Missing frames at the border of two machines’ shares hint at a gap in the split.',
    'range, passes[].range',
  ),
  'coming-frame': guide('A running batch still has the frame to render.', 'The shot is not complete yet.', 'Wait, or look at the batch.'),
  'stopgap-frame': guide(
    'A neighbour was put in the place of a missing frame by a mend, so that the shot plays through.',
    'It shows another moment: in the film the picture stands still for a frame.',
    'Render the frame; whatever is written in its place is no stopgap any more.',
  ),
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
};
