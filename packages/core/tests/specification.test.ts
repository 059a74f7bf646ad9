import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { findDepartures, parseBrief, passRoles, sampleDepths, specificationOf, specificationSchema, workOutOrder, type Specification } from '../src/index.ts';

const passes = [
  { name: 'beauty', role: 'beauty', pattern: 'beauty/s_v001_beauty.####.exr', depth: 'half' },
  { name: 'depth', role: 'depth', pattern: 'depth/s_v001_depth.####.exr', depth: 'float' },
];
const brief = {
  shot: 's',
  version: 'v001',
  naming: '{pass}/{shot}_{version}_{pass}.####.exr',
  range: '1-48',
  resolution: [1920, 1080],
  sampling: { samples: 64 },
  passes,
};
const order = (change: object = {}) => workOutOrder(parseBrief({ ...brief, ...change }));
const full: Specification = specificationSchema.parse({
  name: 'Feature',
  minimumSamples: 64,
  formats: ['exr'],
  depths: ['half', 'float'],
  resolution: [1920, 1080],
  minimumPadding: 4,
  naming: brief.naming,
  roles: ['beauty', 'depth'],
});

describe('a delivery specification', () => {
  it('is followed by an order that has all of it', () => {
    expect(findDepartures(order(), full)).toEqual([]);
    expect(findDepartures(order(), { name: 'asks nothing' })).toEqual([]);
  });

  it.each<[object, string, RegExp]>([
    [{ sampling: { samples: 32 } }, 'sampling.samples', /32 samples where at least 64/],
    [{ sampling: undefined }, 'sampling.samples', /No number of samples/],
    [{ resolution: [1280, 720] }, 'resolution', /1280 x 720 where 1920 x 1080/],
    [{ passes: [passes[0]] }, 'passes', /no depth pass/],
    [{ passes: [{ ...passes[0], depth: '8' }, passes[1]] }, 'passes.0.depth', /beauty is 8 where half or float/],
    [{ passes: [{ ...passes[0], depth: undefined }, passes[1]] }, 'passes.0.depth', /states no depth/],
    [{ passes: [passes[0], { ...passes[1], pattern: 'depth/s_depth.####.exr' }] }, 'passes.1.pattern', /where depth\/s_v001_depth\.####\.exr is asked for/],
    [{ version: 'v002' }, 'passes.0.pattern', /v002/],
  ])('is departed from by %j', (change, field, message) => {
    const found = findDepartures(order(change), full);
    expect(found.find((one) => one.field === field)?.message).toMatch(message);
  });

  it('looks at padding and format on its own', () => {
    const short = order({ passes: [{ ...passes[0], pattern: 'b.##.png' }] });
    expect(findDepartures(short, { name: 'x', minimumPadding: 4, formats: ['exr'] }).map((one) => one.message)).toEqual([
      'beauty is png where exr is asked for.',
      'beauty is padded to 2 where at least 4 digits are asked for.',
    ]);
  });

  it('that was made from a brief is followed by that brief', () => {
    const pass = fc.record({
      name: fc.constantFrom('a', 'b', 'c'),
      role: fc.option(fc.constantFrom(...passRoles), { nil: undefined }),
      depth: fc.option(fc.constantFrom(...sampleDepths), { nil: undefined }),
      pattern: fc.constantFrom('x.####.exr', 'y/z.%05d.png', 'w.#.dpx'),
    });
    fc.assert(
      fc.property(fc.uniqueArray(pass, { selector: ({ name }) => name, minLength: 1 }), (list) => {
        // A pass of a light role that states no depth departs from any depth, by design.
        const stated = list.map((one) => (one.role === 'beauty' || one.role === 'light' ? { ...one, depth: one.depth ?? 'half' } : one));
        const made = workOutOrder(parseBrief({ shot: 's', range: '1-5', passes: stated }));
        const specification = specificationSchema.parse(JSON.parse(JSON.stringify(specificationOf(made, 'made'))));
        expect(findDepartures(made, specification)).toEqual([]);
      }),
    );
  });

  it.each([
    {},
    { name: ' ' },
    { name: 'x', minimumPadding: 0 },
    { name: 'x', naming: '{take}.####.exr' },
    { name: 'x', naming: '{shot}.exr' },
    { name: 'x', depths: ['7'] },
  ])('is refused as %j', (value) => {
    expect(specificationSchema.safeParse(value).success).toBe(false);
  });
});
