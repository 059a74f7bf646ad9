export { findMendConflicts, presentIn, type Present } from './conflicts.ts';
export { orderMoves, type MendMove } from './order-moves.ts';
export { planRename, planRenumber, planTrim } from './plans.ts';
export {
  asidePath,
  isMove,
  mendStepSchema,
  mendStepsSchema,
  mendWishSchema,
  sayMend,
  SET_ASIDE,
  type MendConflict,
  type MendPlan,
  type MendStep,
  type MendWish,
} from './steps.ts';
