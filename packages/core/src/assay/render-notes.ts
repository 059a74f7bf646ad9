/** What a renderer noted in a file of the work that it was. */
export interface RenderNotes {
  readonly samples: number | null;
  readonly seconds: number | null;
}

/**
 * Finds the samples and the time in a file's metadata. Renderers name them as they like, often
 * below a name of their own (`xyz/samples`): the last word counts.
 */
export function readRenderNotes(metadata: Readonly<Record<string, string | number>>): RenderNotes {
  let samples: number | null = null;
  let seconds: number | null = null;
  for (const [name, value] of Object.entries(metadata)) {
    const word = (/[^/:.]+$/.exec(name)?.[0] ?? name).replace(/[\s_-]/g, '').toLowerCase();
    if (/^(samples|spp|samplecount|samplesperpixel|pixelsamples|numsamples|aasamples)$/.test(word)) samples ??= positive(Number(value));
    else if (/^(rendertime|renderseconds|renderduration|frametime|timetorender)(s|sec|seconds)?$/.test(word)) seconds ??= readSeconds(value);
  }
  return { samples: samples !== null && Number.isInteger(samples) ? samples : null, seconds };
}

function positive(value: number): number | null {
  return Number.isFinite(value) && value > 0 ? value : null;
}

/** `12.5`, `12.5s`, `02:14.20` or `1:02:14`. */
function readSeconds(value: string | number): number | null {
  if (typeof value === 'number') return positive(value);
  const clock = /^(?:(\d+):)?(\d+):(\d+(?:\.\d+)?)$/.exec(value.trim());
  if (clock) return positive(Number(clock[1] ?? 0) * 3600 + Number(clock[2]) * 60 + Number(clock[3]));
  return positive(Number(/^(\d+(?:\.\d+)?)\s*(?:s|sec|seconds)?$/.exec(value.trim())?.[1]));
}
