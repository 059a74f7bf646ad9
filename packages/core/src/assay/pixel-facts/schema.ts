import * as z from 'zod';

/** What is known of one channel's pixels. Integers are scaled to 0..1. */
const channelFactsSchema = z.object({
  name: z.string(),
  /** Checksum of the values; two channels of one size with the same values have the same. */
  hash: z.string(),
  /** Of the values that are numbers; null where there is none. */
  min: z.number().nullable(),
  max: z.number().nullable(),
  mean: z.number().nullable(),
  /** Pixels that hold no number, an infinite one, one below zero. */
  nan: z.number(),
  infinite: z.number(),
  negative: z.number(),
  /** Share of pixels that are exactly zero. */
  zero: z.number(),
});
export type ChannelFacts = z.output<typeof channelFactsSchema>;

/** How a layer's alpha stands to its colours. */
const alphaFactsSchema = z.object({
  min: z.number(),
  max: z.number(),
  /** Share of pixels that are covered in part, between 2 and 98 percent. */
  partial: z.number(),
  /** Of those, the share whose colour exceeds the alpha. */
  exceeding: z.number(),
  /** Mean of the largest colour where a third and less is covered, and where two thirds and more are. */
  thinColour: z.number().nullable(),
  thickColour: z.number().nullable(),
  /** Share of the pixels with no alpha at all that hold colour. */
  colourWithoutAlpha: z.number(),
});
export type AlphaFacts = z.output<typeof alphaFactsSchema>;

const layerFactsSchema = z.object({
  /** What stands before the last dot of its channels' names; empty for plain R, G, B. */
  name: z.string(),
  /** Stands for the values of its colours: two layers with the same picture have the same. */
  picture: z.string(),
  /** A very small picture, for telling how much frames differ (thumbnail.ts). */
  thumbnail: z.string(),
  alpha: alphaFactsSchema.nullable(),
});
export type LayerFacts = z.output<typeof layerFactsSchema>;

/** A stretch of pixels with straight edges that are exactly zero in every channel. */
const emptyRegionSchema = z.object({
  x: z.number(),
  y: z.number(),
  width: z.number(),
  height: z.number(),
  pixels: z.number(),
  /** How much of a picture stands right around it, 0 to 1; a drawing's own black has flat colours beside it. */
  living: z.number().default(0),
});
export type EmptyRegion = z.output<typeof emptyRegionSchema>;

/** What a full look at a file says of its pixels. */
export const pixelFactsSchema = z.object({
  channels: z.array(channelFactsSchema),
  layers: z.array(layerFactsSchema),
  emptyRegions: z.array(emptyRegionSchema),
});
export type PixelFacts = z.output<typeof pixelFactsSchema>;
