export { loadConfig, ConfigError, STANDIN_FARM, usualMemory, type Config, type Root } from './config/config.ts';
export { projectFolder, servicesFolder } from './config/project.ts';
export {
  countFolder,
  NothingToCountError,
  type CountOptions,
  type CountResult,
  type CountedFile,
  type InspectedFile,
  type KnownFile,
} from './counting/count-folder.ts';
export { listFolder, FolderTooLargeError, type FolderListing } from './files/list-folder.ts';
export { findRoot, openForWriting, openInside, resolveInside, resolveWritable } from './files/roots.ts';
export { Housekeeper } from './housekeeping/house.ts';
export { inspectFile, withFile } from './inspection/inspect-file.ts';
export { codecTools } from './inspection/codec-tools.ts';
export { InspectionPool } from './inspection/pool.ts';
export { layerOfPass, type Layer } from './stills/layers.ts';
export { proxyPath, writeProxy } from './stills/proxy.ts';
export { JobRunner } from './jobs/runner.ts';
export { PackageError, writeBag, type BagOptions, type WrittenBag } from './packaging/write-bag.ts';
export { HttpRenderService, ServiceError } from './render-service/http-service.ts';
export { LocalCommandService } from './render-service/local-command.ts';
export type { RenderService } from './render-service/service.ts';
export { findService, makeServices } from './render-service/services.ts';
export type { MeasureResult } from './measuring/measure-shot.ts';
export { Proposer } from './proposing/proposer.ts';
export type { Proposal } from './proposing/propose-worker.ts';
