export { noteSchema, type Note } from './note.ts';
export { ALL_PARTS, CONTENT_DIGITS, firstPartOutside, PARTS_ACROSS, PARTS_DOWN, partsWithin, sightSchema, type Sight } from './sight.ts';
export { wayOfSeeing, type NotWatched, type Showing } from './way-of-seeing.ts';
export {
  isUsuallyWatched,
  leftToWatch,
  passesToWatch,
  passEyesSchema,
  workOutEyes,
  type PassContents,
  type PassEyes,
  type PassSight,
} from './work-out-eyes.ts';
