import type { AssayPlan, FramePlan } from '../assaying/plan.ts';
import type { PassPlace } from './files-to-write.ts';

/** The plan of one pass and the lights that go along with it, without what is measured beside it. */
export function ofPass({ frames }: AssayPlan, pass: string, lights: readonly PassPlace[]): AssayPlan {
  return {
    passes: [pass],
    frames: frames.flatMap((plan): FramePlan[] => {
      const file = plan.colours[pass];
      const along = lights.flatMap(({ pass: light }) => (plan.colours[light] ? [[light, plan.colours[light]] as const] : []));
      return file
        ? [{ ...plan, colours: { [pass]: file, ...Object.fromEntries(along) }, whole: plan.whole === pass ? pass : null, beside: {}, lights: [] }]
        : [];
    }),
  };
}

/** So many frames of the beauty tell how wide the pixel filter is: the first, and those that its noise is told from. */
const OF_BEAUTY = 3;

/**
 * What is measured of frames of a pass. A light by itself may hold nothing but edges, which look like noise that a wide pixel
 * filter has joined: how wide that is the beauty tells, where there is one.
 */
export function toMeasure(frames: readonly FramePlan[], pass: string, whole: AssayPlan): AssayPlan {
  const beauty = whole.frames[0]?.whole ?? pass;
  if (beauty === pass) return { passes: [pass], frames };
  const files = new Map(whole.frames.map(({ frame, colours }) => [frame, colours[beauty]]));
  return {
    passes: [pass, beauty],
    frames: frames.map((plan, at): FramePlan => {
      const file = at < OF_BEAUTY ? files.get(plan.frame) : undefined;
      return file ? { ...plan, whole: beauty, colours: { ...plan.colours, [beauty]: file } } : plan;
    }),
  };
}
