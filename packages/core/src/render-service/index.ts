export * from './interface.ts';
export { CommandTokenError, fillCommand } from './tokens.ts';
export { fillFromBrief, NotRenderableError, tokensOfBrief } from './brief-tokens.ts';
