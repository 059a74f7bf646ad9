export { planesNamed } from './choose-planes.ts';
export { decodeSRgb, seeChannel, seeColour, stopBands, viewTransforms, type Look, type StopBand, type ViewTransform } from './look.ts';
export { packPicture, type PictureWish } from './pack-picture.ts';
export { readPictureMessage, writePictureMessage, type PictureInfo, type PictureSamples, type SentPicture } from './picture-message.ts';
export type { Picture } from './place-in-display.ts';
export { renderForScreen } from './render-for-screen.ts';
export { SeenByTable } from './see-by-table.ts';
export { encodeSRgb } from './srgb.ts';
