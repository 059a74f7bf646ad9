export * from './interface.ts';
export { CommandTokenError, fillCommand } from './tokens.ts';
export { NotRenderableError, SERVICE_TOKENS, tokensOfBrief } from './brief-tokens.ts';
