export { NotConvertedError } from './channels.ts';
export { convertFrame, type ConvertedFrame, type ConvertSource } from './convert-frame.ts';
export { LossSum, sayLoss, type Loss } from './loss.ts';
