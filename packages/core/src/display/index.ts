export { planesNamed } from './choose-planes.ts';
export type { Picture } from './place-in-display.ts';
export { renderForScreen } from './render-for-screen.ts';
export { encodeSRgb } from './srgb.ts';
