export { detailKept, shareOfDetail, type Cleaned, type DetailSums, type Reference } from './detail-kept.ts';
export { filterFrame, type FilteredFrame, type LightPlanes } from './filter-frame.ts';
export { greyOf } from './grey.ts';
export { knownNoise } from './known-noise.ts';
export { lightToDenoise, pictureToDenoise, type ColoursToDenoise, type PictureToDenoise } from './picture.ts';
export { isForDenoising, lightsBeside, NotForDenoisingError, refuseData, refuseOthersBeside } from './refused.ts';
export {
  denoiseFiguresSchema,
  denoiseRequestSchema,
  framesTold,
  joinSittings,
  meanFigure,
  MOST_STRENGTHS,
  SEATS,
  secondsForRange,
  STRETCH,
  timesWithLights,
  toldBy,
  type DenoiseFigures,
  type DenoiseRequest,
} from './request.ts';
export { seenAt, type Surfaces } from './seen-at.ts';
export {
  DenoiseSettingError,
  frameCounts,
  parseFrameCount,
  parseStrength,
  sayDenoising,
  strengths,
  STRENGTHS,
  type FrameCount,
  type StrengthName,
} from './settings.ts';
export { steadyFrame, type Companion, type FrameToSteady, type SteadiedFrame } from './steady-frame.ts';
export { differenceAlong, noiseLeft, type LeftIn } from './what-is-left.ts';
export { further, trailAfter, trailBefore, type Trail, type Vectors } from './trails.ts';
