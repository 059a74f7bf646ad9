export { renderDemo, type DemoRenderOptions } from './demo/render-demo.ts';
export { briefOf, demoShots, type DemoShot } from './demo/shots.ts';
export { renderFrame, type FrameSettings, type RenderedFrame } from './render/frame.ts';
