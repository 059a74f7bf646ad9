export { adviceCodes, adviseBrief, type Advice, type AdviceCode, type AdviceContext } from './advice/index.ts';
export {
  alphaKinds,
  BriefError,
  briefSchema,
  fieldMessages,
  parseBrief,
  passRoles,
  severities,
  type AlphaKind,
  type Brief,
  type BriefPass,
  type PassRole,
  type Severity,
} from './schema.ts';
export {
  fitLine,
  fitNoise,
  fitTime,
  noiseAt,
  samplesForNoise,
  samplesForVariance,
  samplesForSeconds,
  secondsAt,
  timesOutside,
  wallSeconds,
  type NoiseFit,
  type TestRender,
  type TimeFit,
} from './cost.ts';
export { bandingOf, type Banding, type Gradients } from './banding.ts';
export { compareBriefs, type BriefDifference } from './differences.ts';
export {
  describeRun,
  DurationError,
  framesOfDuration,
  framesOfSeconds,
  framesOfTimecode,
  rangeOf,
  screenRun,
  secondsOfFrames,
  shownSize,
  type FrameCount,
  type ScreenRun,
} from './duration.ts';
export { DENOISED_NOTE, DENOISED_SOURCE, denoisedPasses, denoisedPlace, isRendered, refuseDenoised, withDenoised, type DenoisedPlace } from './denoised.ts';
export { fillNaming, hasTokens, NamingTemplateError, type NamingValues } from './naming-tokens.ts';
export { workOutOrder, type Order, type OrderedPass } from './order.ts';
export { formatOf, planDisk, type DiskPlan, type PassPlan } from './planning.ts';
export { findDepartures, packageForms, specificationOf, specificationSchema, type Departure, type Specification } from './specification.ts';
export { orderSheet, writeCsv, type OrderSheetRow } from './order-sheet.ts';
export { retargetBrief } from './retarget.ts';
export { scoutOrder } from './scout.ts';
