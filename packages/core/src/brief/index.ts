export {
  alphaKinds,
  BriefError,
  briefSchema,
  fieldMessages,
  parseBrief,
  passRoles,
  sampleDepths,
  severities,
  type AlphaKind,
  type Brief,
  type BriefPass,
  type PassRole,
  type SampleDepth,
  type Severity,
} from './schema.ts';
export { workOutOrder, type Order, type OrderedPass } from './order.ts';
