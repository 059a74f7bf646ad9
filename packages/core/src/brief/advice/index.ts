import { severities } from '../schema.ts';
import type { Order } from '../order.ts';
import type { Advice, AdviceContext, AdviceRule } from './advice.ts';
import { alphaRule, bandingRule, heavyRule, limitRule, lossyRule, roleDepthRule } from './formats.ts';
import { lengthRule } from './lengths.ts';
import { collisionRule, paddingRule, unsafeRule } from './names.ts';
import { diskRule, folderRule, scaleRule } from './places.ts';

export { adviceCodes, type Advice, type AdviceCode, type AdviceContext } from './advice.ts';

const RULES: readonly AdviceRule[] = [
  collisionRule,
  lengthRule,
  paddingRule,
  unsafeRule,
  scaleRule,
  limitRule,
  lossyRule,
  bandingRule,
  roleDepthRule,
  alphaRule,
  folderRule,
  diskRule,
  heavyRule,
];

/**
 * Says what is wrong or odd with an order before anything is rendered, each with the sum that
 * shows it; what stops the render first.
 */
export function adviseBrief(order: Order, context: AdviceContext): Advice[] {
  const found = RULES.flatMap((rule) => rule(order, context));
  return found.sort((a, b) => severities.indexOf(a.severity) - severities.indexOf(b.severity));
}
