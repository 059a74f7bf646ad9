export { layerOf, measurePixels } from './measure.ts';
export { pixelFactsSchema, type AlphaFacts, type ChannelFacts, type EmptyRegion, type LayerFacts, type PixelFacts } from './schema.ts';
export { readThumbnail, THUMBNAIL_ACROSS, THUMBNAIL_DOWN, thumbnailDistance } from './thumbnail.ts';
