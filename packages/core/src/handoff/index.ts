export { BAG_DECLARATION, BagError, payloadOxum, writeBagInfo, writeManifest, type BagEntry } from './bag.ts';
export { gateNames, isReadyForHandoff, workOutGates, type Gate, type GateName, type GateState } from './gates.ts';
