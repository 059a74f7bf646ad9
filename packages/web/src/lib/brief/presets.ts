/** Sizes that are plain standards, with the aspect of their pixels. */
export const sizePresets: readonly { readonly title: string; readonly width: number; readonly height: number; readonly pixelAspect: number }[] = [
  { title: 'HD 1280 x 720', width: 1280, height: 720, pixelAspect: 1 },
  { title: 'HD 1920 x 1080', width: 1920, height: 1080, pixelAspect: 1 },
  { title: 'UHD 3840 x 2160', width: 3840, height: 2160, pixelAspect: 1 },
  { title: 'DCI 2K 2048 x 1080', width: 2048, height: 1080, pixelAspect: 1 },
  { title: 'DCI 2K flat 1998 x 1080', width: 1998, height: 1080, pixelAspect: 1 },
  { title: 'DCI 2K scope 2048 x 858', width: 2048, height: 858, pixelAspect: 1 },
  { title: 'DCI 4K 4096 x 2160', width: 4096, height: 2160, pixelAspect: 1 },
  // ITU-R BT.601: 720 samples a line, of which 702 or 704 make 4:3 or 16:9.
  { title: 'PAL 4:3 720 x 576', width: 720, height: 576, pixelAspect: 1.0926 },
  { title: 'PAL 16:9 720 x 576', width: 720, height: 576, pixelAspect: 1.4568 },
  { title: 'NTSC DV 4:3 720 x 480', width: 720, height: 480, pixelAspect: 0.9091 },
  { title: 'NTSC DV 16:9 720 x 480', width: 720, height: 480, pixelAspect: 1.2121 },
  { title: 'NTSC 4:3 720 x 486', width: 720, height: 486, pixelAspect: 0.9118 },
  { title: 'NTSC 16:9 720 x 486', width: 720, height: 486, pixelAspect: 1.2157 },
];
