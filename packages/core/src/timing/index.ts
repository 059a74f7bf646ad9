export { directionAfter, loopModes, placeAfter, placesAfter, type Course, type LoopMode } from './playback.ts';
export { durationSeconds, formatFrameRate, parseFrameRate, FrameRateError, type FrameRate } from './rate.ts';
export { allowsDropFrame, formatTimecode, nominalRate, parseTimecode, TimecodeError } from './timecode.ts';
