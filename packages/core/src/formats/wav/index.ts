export { checkWav, type WavSound } from './check.ts';
export { readWavHeader, type WavHeader } from './header.ts';
