export { newestAssay, readAssay, readAssayTiles, saveAssay } from './assays.ts';
export { addBatchLines, lastLines, listAlarms, listBatchLines, raiseAlarm, settleAlarm } from './batch-log.ts';
export {
  assignTask,
  batchSettingsSchema,
  BatchRunningError,
  comingFrames,
  createBatch,
  endBatch,
  findBatch,
  giveFrames,
  judgeBatchFrame,
  listBatchFrames,
  listOrphanBatches,
  newestBatch,
  secondsByMachine,
  takeMachineOut,
  updateBatchFrame,
  wishBatch,
  type Batch,
  type BatchFrame,
  type BatchOutcome,
} from './batches.ts';
export { listBriefs, newestBrief, saveBrief, type SavedBrief } from './briefs.ts';
export { Bell } from './bell.ts';
export { isDatabaseAway, openDatabase, StoreError, type Database, type Queryable, type Transaction } from './database.ts';
export { countEngines, noteAbsence, notePresence, releaseFallenEngines } from './engines.ts';
export {
  claimDenoisePart,
  createDenoise,
  denoiseProgress,
  endDenoise,
  endDenoisePart,
  interruptDenoisePart,
  findDenoise,
  keptDenoiseTests,
  newestDenoises,
  type DenoiseRun,
} from './denoising.ts';
export { findFileFacts, forgetFiles, loadFileFacts, saveFileFacts, type StoredFile } from './file-facts.ts';
export type { Job } from './job-rows.ts';
export { cancelJob, findJob, listNewestJobs, newestResult, readResult, requestJob, writeProgress } from './jobs.ts';
export { assayUnderWay, finishJob, leaseJob, LEASE_SECONDS, MOST_FALLS, releaseJob, renewLease, runningAmong, whileHeld, type Takes } from './leases.ts';
export { migrate } from './migrate.ts';
export { announcePackage, confirmPackage, findAnnounced, listPackages, newestPackagePlace, readHolds, type SavedPackage } from './packages.ts';
export { ensureProject, firstProject, readSetting, writeSetting, type Project } from './projects.ts';
export { createShot, findShot, listShots, readShotHoldings, removeShot, renameShot, ShotNameTakenError, type Shot } from './shots.ts';
export { listChangesAfter, listCounts, newestCount, newestTally, newestTallyIds, saveTally } from './tallies.ts';
export { listFindingFiles, newestFindings, readFindings } from './tally-findings.ts';
export { listMovies, noteMovie, type SavedMovie } from './movies.ts';
export { addReceipt, listReceipts } from './receipts.ts';
export { findArrival, keepVerified, noteArrival } from './arrivals.ts';
export { listSheets, noteSheet, type SavedSheet } from './sheets.ts';
export { addStamp, newestStamp, withdrawStamp, type Stamp } from './stamps.ts';
export { addWaiver, listWaivers, withdrawWaiver, type Waiver } from './waivers.ts';
export { listFollowers, listSpecifications, removeSpecification, saveSpecification } from './specifications.ts';
export { createMerge, findMerge, listMergeSteps, mergeRequestSchema, newestMerge, savePreview, setMergeState, type Merge } from './merges.ts';
export { addSights, listSights, listWatchers, readPassContents, savePassContents } from './eyes.ts';
export { listMends, noteMend, noteMendUndone, readMendSteps } from './mends.ts';
export { addToMendList, dropFromMendList, listMendList, type MendListEntry } from './mend-list.ts';
export { forgetMendPreview, readMendPreview, saveMendPreview, type MendPreview } from './mend-previews.ts';
export { addNote, listNotes, setNoteClosed, type SavedNote } from './notes.ts';
export { keepFileTable, listShotsWithoutTable, readFileTable, saveFileTable } from './file-tables.ts';
export { listSummaries, readStateKey, saveSummary, type SummarisedShot } from './shot-keys.ts';
export { aloneInTheHouse, forgetOldRecords, knownContents, listPackagePlaces, listShotPlaces, readHouse, saveHouse, type House } from './housekeeping.ts';
