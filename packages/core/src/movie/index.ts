export { encoderArguments, needsEvenSides, type EncoderOrder } from './encoder.ts';
export { burnInLines, MovieError, movieSize, planMovie, type MoviePicture, type MoviePlan } from './plan.ts';
export { judgeMovie, meanDifference, probedSchema, type ExpectedMovie, type ProbedMovie } from './read-back.ts';
export { codecsOfExtension, extensionOfCodec, movieCodecs, movieSettingsSchema, readColour, type MovieCodec, type MovieSettings } from './settings.ts';
