export { arrivalIntervals, estimateTimeLeft, stallAfter, type MachinePace, type TimeLeft } from './estimate.ts';
export { framesToRender, renderGroups, writtenOver, type Remainder, type RenderGroup } from './resume.ts';
export { formatInOrder, splitAsText, splitRows } from './sheet.ts';
export {
  frameOrders,
  orderShares,
  proveSplit,
  splitAtBorders,
  SplitError,
  splitFrames,
  splitRules,
  workOutBorders,
  type FrameOrder,
  type Share,
  type SplitMachine,
  type SplitProof,
  type SplitRule,
} from './split.ts';
export {
  claimForMerge,
  mergeRules,
  mergeStepSchema,
  mergeWays,
  planMerge,
  type MergeCandidate,
  type MergeChoice,
  type MergeClaim,
  type MergeFacts,
  type MergePlan,
  type MergeRule,
  type MergeSource,
  type MergeStep,
  type MergeWay,
} from './merge.ts';
