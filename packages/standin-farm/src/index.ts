export { planShot, renderDemo } from './demo/render-demo.ts';
export { briefOf, DEMO_QUALITY, demoShots } from './demo/shots.ts';
export { assayedRoles, renderFrame, type FrameSettings, type PassName, type RenderedFrame } from './render/frame.ts';
export { encodePasses, type PassFile } from './nodes/frame-files.ts';
export { USUAL_COMMAND } from './service/command.ts';
export { Farm } from './service/farm.ts';
export { serveFarm } from './service/http.ts';
export { studyNames, type StudyName } from './scene/studies.ts';
