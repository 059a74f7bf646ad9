export { NotConvertedError } from './channels.ts';
export type { ConvertSource } from './channel.ts';
export { convertFrame, type ConvertedFrame } from './convert-frame.ts';
export { LossSum, sayLoss, type Loss } from './loss.ts';
