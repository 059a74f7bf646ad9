export { assignFiles, filesToInspect, type Assignment, type Claim } from './assign.ts';
export { concernsPass } from './concern.ts';
export { families, findingCodes, isFindingCode, nextActions, type Family, type FindingCode, type NextAction } from './codes.ts';
export { setAsideComing, SETTLED_AFTER, type Coming } from './coming.ts';
export { findingSchema, type Finding } from './findings.ts';
export { frameStates, makeLanes, stateRank, type FrameState, type Lane } from './lanes.ts';
export { type ListedFile } from './listing.ts';
export { passTallySchema, tally, tallyLevels, tallySchema, type PassTally, type Tally, type TallyInput, type TallyLevel } from './tally.ts';
export { impliedBrief, proposeBrief, sampleFiles, withImpliedKinds } from './propose.ts';
