export { RECEIPT_KIND, receiptSchema, type Receipt } from './receipt.ts';
export { changedSince, type Delta } from './delta.ts';
export { composeNote, type NoteFacts } from './note.ts';
export { briefToHandOver, NothingChosenError, packageWishSchema, type PackageWish } from './wish.ts';
export { writeTimeline } from './timeline.ts';
export { narrowBrief, splitIntoVolumes } from './volumes.ts';
export { givenUpBy } from './given-up.ts';
export { explainRefusal } from './refusal.ts';
export { BAG_DECLARATION, BagError, folderInTar, payloadOxum, writeBagInfo, writeManifest, type BagEntry } from './bag.ts';
export {
  manifestAlgorithms,
  readBagInfo,
  readManifest,
  unsafePathReason,
  type ManifestAlgorithm,
  type ManifestLine,
  type ReadManifest,
} from './read-manifest.ts';
export { gateNames, gateOfFamily, isMeasured, isReadyForHandoff, workOutGates, type Gate, type GateName, type GateState } from './gates.ts';
export { acceptedGates, acceptFinding, coversFinding, sayWaivers, waiverSubjectSchema, type WaiverSubject } from './waivers.ts';
export { REPORT_KIND, reportSchema, type Report } from './report.ts';
