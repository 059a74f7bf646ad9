export { loadConfig, ConfigError, type Config, type Root } from './config/config.ts';
export { projectFolder, servicesFolder } from './config/project.ts';
export { countFolder, NothingToCountError, type CountOptions, type CountResult, type InspectedFile, type KnownFile } from './counting/count-folder.ts';
export { listFolder, FolderTooLargeError, type FolderListing } from './files/list-folder.ts';
export { FileAccessError, findRoot, joinInside, openInside, resolveForWriting, resolveInside } from './files/roots.ts';
export { InspectionPool } from './inspection/pool.ts';
