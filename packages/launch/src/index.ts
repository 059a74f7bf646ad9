export { startOwnServer, type OwnServer } from './database/own-server.ts';
export { LaunchError } from './errors.ts';
export { findFreePort, isPortFree } from './ports.ts';
export { setUpProject } from './demo/set-up-demo.ts';
