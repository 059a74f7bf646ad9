export * from './brief/index.ts';
export * from './errors.ts';
export * from './formats/index.ts';
export * from './handoff/index.ts';
export * from './naming/index.ts';
export * from './ranges/index.ts';
export * from './tally/index.ts';
export * from './timing/index.ts';
