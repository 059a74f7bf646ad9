export { planShot, renderDemo, type DemoRenderOptions } from './demo/render-demo.ts';
export { briefOf, demoShots, type DemoShot, type RenderQuality } from './demo/shots.ts';
export { passNames, renderFrame, type FrameSettings, type PassName, type RenderedFrame } from './render/frame.ts';
export { encodePasses, type PassFile } from './nodes/frame-files.ts';
export { parseCommand, USUAL_COMMAND } from './service/command.ts';
export { Farm, usualMachines } from './service/farm.ts';
export { faultKinds, parseFaults, type FaultKind } from './service/faults.ts';
export { serveFarm } from './service/http.ts';
