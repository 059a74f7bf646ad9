import { guide, type GuideOf } from './entry.ts';

/** What is said of names. */
export const namesGuide: GuideOf<'names'> = {
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
};
