export { FrameSet, MAXIMUM_FRAMES, MAXIMUM_FRAME_NUMBER, TooManyFramesError } from './frame-set.ts';
export { frameSetSchema } from './frame-set-schema.ts';
export { formatFrameRange, parseFrameRange, parseFrameSet, RangeNotationError } from './notation.ts';
