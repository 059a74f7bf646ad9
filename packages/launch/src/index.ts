export { startOwnServer } from './database/own-server.ts';
export { findFreePort, isPortFree } from './ports.ts';
