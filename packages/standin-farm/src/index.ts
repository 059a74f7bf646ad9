export { planShot, renderDemo, type DemoRenderOptions } from './demo/render-demo.ts';
export { briefOf, demoShots, type DemoShot, type RenderQuality } from './demo/shots.ts';
export { renderFrame, type FrameSettings, type RenderedFrame } from './render/frame.ts';
export { encodePass, type PassFile } from './nodes/frame-files.ts';
