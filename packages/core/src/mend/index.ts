export { findMendConflicts, presentIn, type Present } from './conflicts.ts';
export { listingAfter, type ListingAfter } from './listing-after.ts';
export { orderMoves, type MendMove } from './order-moves.ts';
export { borderFrame, compareAtBorder, type BorderFrame } from './plans/borders.ts';
export { planConvert } from './plans/convert.ts';
export { mapFrames, planConform, sayFrameMap, type FrameMap } from './plans/conform.ts';
export { planHold } from './plans/hold.ts';
export { planRename, planRenumber, planSwap } from './plans/names.ts';
export { filesForPatch, judgePatch, listingWithPatch, planMergeSteps, planPatch, type PatchFile, type PatchWord } from './plans/patch.ts';
export { planRestore } from './plans/restore.ts';
export { planTrim } from './plans/trim.ts';
export {
  conversionSchema,
  exrCompressions,
  recipeSchema,
  sayConversion,
  writtenDepths,
  writtenFormats,
  type Conversion,
  type ExrCompression,
  type Recipe,
  type WrittenDepth,
  type WrittenFormat,
} from './recipes.ts';
export {
  anyWishSchema,
  asidePath,
  isMove,
  mendStepSchema,
  mendStepsSchema,
  SET_ASIDE,
  type AnyWish,
  type MendConflict,
  type MendPlan,
  type MendStep,
} from './steps.ts';
export { contentsFor, followListed, type ListedFrames, type ListedPass } from './render-list.ts';
export { mendWishSchema, sayMend, type MendKind, type MendWish } from './wishes.ts';
