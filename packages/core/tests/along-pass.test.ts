import { describe, expect, it } from 'vitest';
import { encodePng, frameSetSchema, type Finding, type Tally } from '../src/index.ts';
import {
  beautyPath,
  findings,
  FIRST,
  HEIGHT,
  LAST,
  matteFrame,
  movingBrief,
  movingFrame,
  movingShot,
  noAlphaOrdered,
  opaque,
  turned,
  WIDTH,
  type Look,
  type MovingBrief,
} from './moving-shot.ts';
import { tools } from './tools.ts';
import { count, short, tgaFrame, type VirtualFolder } from './virtual-folder.ts';

function only(result: Tally): Finding {
  expect(result.findings).toHaveLength(1);
  return result.findings[0];
}

/** For some frames one look, for the others the usual one. */
const at = (frames: readonly number[], look: Partial<Look>) => (frame: number) => (frames.includes(frame) ? look : {});

const erase = (left: number, top: number, width: number, height: number) => (x: number, y: number, values: number[]) =>
  x >= left && x < left + width && y >= top && y < top + height ? [0, 0, 0, 0] : values;

/** A black square whose sides are not straight, as packing with losses leaves them. */
const worn = (left: number, top: number, size: number) => (x: number, y: number, values: number[]) => {
  const inside = x >= left + (y % 3) && x < left + size - (y % 2) && y >= top + (x % 3) && y < top + size - (x % 2);
  return inside ? [0, 0, 0, 0] : values;
};

describe('a shot that moves', () => {
  it('is sound as it is', () => {
    expect(findings(() => ({}))).toEqual([]);
  });

  it.each<[string, (frame: number) => Partial<Look>, string[], Partial<MovingBrief>?]>([
    ['a black frame', at([1010], { light: 0 }), ['blank-frame beauty 1010']],
    ['no picture at all', () => ({ light: 0, alpha: 'opaque' }), ['blank-frame beauty 1001-1024']],
    ['a frame twice', (frame) => (frame === 1012 ? { at: 14 / 32, seed: 1011 } : {}), ['frozen-frame beauty 1012']],
    ['a stretch that stands', (frame) => (frame > 1012 && frame < 1019 ? { at: 15 / 32, seed: 1012 } : {}), ['frozen-frame beauty 1013-1018']],
    ['another camera for one frame', at([1009], { camera: 1, alpha: 'opaque' }), ['jump beauty 1009'], noAlphaOrdered],
    ['another camera from a frame on', (f) => ({ alpha: 'opaque', camera: f >= 1015 ? 1 : 0 }), ['jump beauty 1015'], noAlphaOrdered],
    ['another camera for a while', (f) => ({ alpha: 'opaque', camera: f === 1009 || f === 1010 ? 1 : 0 }), ['jump beauty 1009-1010'], noAlphaOrdered],
    ['a first frame that another camera left behind', at([FIRST], { camera: 1, alpha: 'opaque' }), [`jump beauty ${FIRST}`], noAlphaOrdered],
    ['first frames that another camera left behind', (f) => ({ alpha: 'opaque', camera: f < FIRST + 3 ? 1 : 0 }), ['jump beauty 1001-1003'], noAlphaOrdered],
    ['last frames of another camera', (f) => ({ alpha: 'opaque', camera: f > LAST - 2 ? 1 : 0 }), ['jump beauty 1023-1024'], noAlphaOrdered],
    ['single frames of another camera, the first among them', at([1001, 1014], { camera: 1, alpha: 'opaque' }), ['jump beauty 1001,1014'], noAlphaOrdered],
    ['first and last frames of another camera', at([FIRST, LAST], { camera: 1, alpha: 'opaque' }), [`jump beauty ${FIRST},${LAST}`], noAlphaOrdered],
    ['the first frame again at the end of a move', (f) => (f === LAST ? { at: 4 / 32, seed: FIRST } : {}), ['loop-repeat beauty 1024']],
    ['a last frame that is the first', (f) => ({ at: turned(f), seed: f === LAST ? FIRST : f }), ['loop-repeat beauty 1024']],
    ['a pixel that is no number', at([1005], { retouch: (x, y, v) => (x === 3 && y === 3 ? [NaN, 0, 0, v[3]] : v) }), ['nan-pixels beauty 1005']],
    ['an infinite pixel', at([1006], { retouch: (x, y, v) => (x === 3 && y === 3 ? [v[0], Infinity, 0, v[3]] : v) }), ['nan-pixels beauty 1006']],
    ['a bucket never written', at([1007], { ...opaque, retouch: erase(16, 8, 16, 16) }), ['missing-region beauty 1007'], noAlphaOrdered],
    ['lines never written', at([1007], { ...opaque, retouch: erase(0, 24, WIDTH, HEIGHT - 24) }), ['missing-region beauty 1007'], noAlphaOrdered],
    [
      'lines never written in two frames running, from another line on',
      (f) => ({ ...opaque, ...(f === 1007 || f === 1008 ? { retouch: erase(0, f - 1007 + 22, WIDTH, HEIGHT) } : {}) }),
      ['missing-region beauty 1007-1008'],
      noAlphaOrdered,
    ],
    ['straight colours', () => ({ alpha: 'straight' }), ['wrong-alpha beauty 1001-1024']],
    ['an alpha of nothing', () => ({ retouch: (_x, _y, v) => [v[0], v[1], v[2], 0] }), ['wrong-alpha beauty 1001-1024']],
    ['an alpha that fills up for a frame', at([1013], { retouch: (_x, _y, v) => [v[0], v[1], v[2], 1] }), ['wrong-alpha beauty 1013']],
    ['an alpha without holes', () => ({ retouch: (_x, _y, v) => [v[0], v[1], v[2], 1] }), ['flat-alpha beauty 1001-1024']],
    ['another camera noted', at([1011], { metadata: { camera: 'b' } }), []],
    ['two cameras noted', (f) => ({ metadata: { camera: f === 1011 ? 'b' : 'a' } }), ['metadata-drift beauty 1011']],
    ['a new renderer at the end', (f) => ({ metadata: { software: f > 1020 ? 'x 2' : 'x 1' } }), ['metadata-drift beauty 1021-1024']],
    [
      'fewer samples than ordered',
      (f) => ({ metadata: { samples: { int: f < 1003 ? 16 : 64 } } }),
      ['metadata-drift beauty 1001-1002'],
      { sampling: { samples: 64 } },
    ],
    ['a strange host', (f) => ({ metadata: { hostComputer: f === 1020 ? 'clove' : 'reef' } }), ['metadata-drift beauty 1020']],
    ['another rate noted', (f) => ({ metadata: { framesPerSecond: { float: f === 1002 ? 25 : 24 } } }), ['wrong-rate beauty 1002']],
    ['another colour space', (f) => ({ metadata: { colorSpace: f === 1002 ? 'sRGB' : 'lin_rec709' } }), ['wrong-colour-space beauty 1002']],
    ['a timecode that lags', (f) => ({ metadata: { timeCode: { int: timecodeOf(f === 1015 ? 13 : f - 1001) } } }), ['metadata-drift beauty 1015']],
    ['another window', at([1004], { dataWindow: [0, 0, 31, 39] }), ['wrong-window beauty 1004']],
    ['a much larger file', at([1008], { compression: 'none' }), ['size-outlier beauty 1008']],
  ])('with %s tells it', (_name, look, expected, brief = {}) => {
    expect(findings(look, brief)).toEqual(expected);
  });

  it.each<[string, (frame: number) => Partial<Look>, Partial<MovingBrief>?]>([
    ['a picture that stands throughout', () => ({ at: 0.5, seed: 1 })],
    ['an animation on twos', (f) => ({ at: (f >> 1) / 700, seed: f >> 1 })],
    ['a fade from black', (f) => ({ ...opaque, light: Math.max(0, f - FIRST) * 0.01 }), noAlphaOrdered],
    ['a letterbox', () => ({ ...opaque, retouch: erase(0, 0, WIDTH, 8) }), noAlphaOrdered],
    ['a black box that moves', (f) => ({ ...opaque, retouch: erase(f - 1000, 8, 16, 16) }), noAlphaOrdered],
    [
      'a black box that moves, with clean edges in some frames only',
      (f) => ({ ...opaque, retouch: f % 3 === 0 ? erase(f - 1000, 8, 16, 16) : worn(f - 1000, 8, 16) }),
      noAlphaOrdered,
    ],
    ['data windows cut to the picture', (f) => ({ dataWindow: [f - 1001, 0, f - 970, 39] })],
    ['three machines', (f) => ({ metadata: { hostComputer: ['reef', 'clove', 'bowline'][(f - FIRST) >> 3] } })],
    ['the command that wrote it noted in each file', (f) => ({ metadata: { software: `maker 2 : make still.exr --shift ${f} shot.${f}.exr` } })],
    ['samples that are chosen by noise', (f) => ({ metadata: { samples: { int: f } } }), { sampling: { noise: 0.02 } } as Partial<MovingBrief>],
    ['an alpha of 1 over a picture without holes', () => opaque],
    ['timecodes that count', (f) => ({ metadata: { timeCode: { int: timecodeOf(f) } } })],
    ['a light that comes up quickly', (f) => ({ light: 1 + 0.1 * Math.max(0, f - 1010) })],
    ['a glow brighter than its alpha', () => ({ light: 4 })],
  ])('with %s is sound', (_name, look, brief = {}) => {
    expect(findings(look, brief)).toEqual([]);
  });
});

/** SMPTE ST 12-1 as files keep it, at 24 frames a second. */
function timecodeOf(frame: number): number {
  const pair = (value: number) => ((Math.floor(value / 10) << 4) | (value % 10)) >>> 0;
  return (
    ((pair(Math.floor(frame / 86400)) << 24) | (pair(Math.floor(frame / 1440) % 60) << 16) | (pair(Math.floor(frame / 24) % 60) << 8) | pair(frame % 24)) >>> 0
  );
}

describe('what the findings carry', () => {
  it('shows a frozen frame beside its original', () => {
    const { evidence } = only(
      count(
        movingShot((f) => (f === 1012 ? { at: 14 / 32, seed: 1011 } : {})),
        movingBrief,
      ),
    );
    expect(evidence).toEqual([{ file: beautyPath(1012), message: expect.stringContaining('frame 1011'), beside: beautyPath(1011) }]);
  });

  it.each([
    ['25', 5, 'every 5th frame, as when 20 frames a second are brought to 25'],
    ['30', 5, 'every 5th frame, as when 24 frames a second are brought to 30'],
    ['24', 4, 'every 4th frame, as when 18 frames a second are brought to 24'],
    [undefined, 6, 'every 6th frame, as when 5 frames are stretched to 6'],
  ])('says what a rhythm of repeats comes from, at %s frames a second', (fps, every, says) => {
    const repeats = (f: number) => (f - FIRST) % every === every - 1;
    const finding = only(
      count(
        movingShot((f) => (repeats(f) ? { at: (f - 1 - FIRST + 4) / 32, seed: f - 1 } : {})),
        { ...movingBrief, fps },
      ),
    );
    expect(finding.code).toBe('frozen-frame');
    expect(finding.message).toContain(`while the shot moves: ${says}.`);
  });

  it('says where a block is missing, in pixels', () => {
    const look = at([1007], { ...opaque, retouch: erase(16, 8, 16, 16) });
    const { evidence } = only(count(movingShot(look), { ...movingBrief, ...noAlphaOrdered }));
    expect(evidence[0].message).toBe('Zero in every channel: 16 x 16 at 16, 8.');
  });

  describe('of a still alone', () => {
    const still = (retouch: NonNullable<Look['retouch']>, noise = 0.05) => {
      const folder = { [beautyPath(FIRST)]: movingFrame({ at: 0.5, seed: 1, alpha: 'opaque', noise, retouch }) };
      return short(count(folder, { ...movingBrief, ...noAlphaOrdered, range: String(FIRST) }));
    };
    const flat = (left: number, top: number, width: number, height: number) => (x: number, y: number) =>
      x >= left && x < left + width && y >= top && y < top + height ? [0, 0, 0, 0] : [0.7, 0.7, 0.7, 1];

    it('tells a bucket that lacks in a living picture', () => {
      expect(still(erase(16, 16, 16, 16))).toEqual([`missing-region beauty ${FIRST}`]);
      expect(still(erase(32, 16, 32, 24))).toEqual([]);
    });

    it('leaves alone what was drawn: black beside flat colours, and black on no grid', () => {
      expect(still(flat(16, 16, 16, 16))).toEqual([]);
      expect(still(erase(13, 11, 21, 17))).toEqual([]);
    });
  });

  it('counts the pixels without a number by channel', () => {
    const look = at([1005], { retouch: (x, y, v) => (x < 2 && y === 3 ? [NaN, v[1], Infinity, v[3]] : v) });
    const { evidence, severity } = only(count(movingShot(look), movingBrief));
    expect(severity).toBe('blocker');
    expect(evidence[0].message).toBe('Pixels by channel: R: 2 not a number; B: 2 infinite.');
  });

  it('says what a misnamed file should be called', () => {
    const folder = movingShot();
    folder['beauty/orr_010-Beauty_1004.exr'] = folder[beautyPath(1004)];
    delete folder[beautyPath(1004)];
    expect(only(count(folder, movingBrief)).evidence[0].shouldBe).toBe(beautyPath(1004));
  });

  it('says how far a size is from the usual one', () => {
    const folder = movingShot(() => ({ compression: 'none', noise: 0.3 }));
    folder[beautyPath(1008)] = movingFrame({ at: 0.34, seed: 3, noise: 0 });
    const outlier = count(folder, { ...movingBrief, checks: { sizeTimes: 1.3 } }).findings.find(({ code }) => code === 'size-outlier');
    expect(outlier).toMatchObject({
      severity: 'note',
      frames: frameSetSchema.parse('1008'),
      evidence: [{ message: expect.stringMatching(/bytes, 1\/[\d.]+ of the usual 2\d,\d{3} around/) }],
    });
  });
});

describe('what the brief can change', () => {
  const jumpy = (f: number): Partial<Look> => ({ alpha: 'opaque', camera: f >= 1015 ? 1 : 0 });

  it('keeps codes quiet, widens a jump, lets metadata differ', () => {
    expect(findings(jumpy, { ...noAlphaOrdered, checks: { off: ['jump'] } })).toEqual([]);
    expect(findings(jumpy, { ...noAlphaOrdered, checks: { jumpTimes: 500 } })).toEqual([]);
    expect(findings((f) => ({ metadata: { camera: String(f) } }), { checks: { ignoreMetadata: ['camera'] } })).toEqual([]);
  });

  it('makes a jump a blocker', () => {
    const result = count(movingShot(jumpy), { ...movingBrief, ...noAlphaOrdered, severities: { jump: 'blocker' } });
    expect(result).toMatchObject({ ready: false, findings: [{ code: 'jump', severity: 'blocker' }] });
  });

  it('may change where the brief expects a cut, and nowhere else', () => {
    const cutAt = (...frames: number[]) => findings((f) => ({ alpha: 'opaque', camera: f >= 1015 ? 1 : 0 }), { ...noAlphaOrdered, cuts: frames.join(',') });
    expect(cutAt(1015)).toEqual([]);
    expect(cutAt(1014, 1016)).toEqual(['jump beauty 1015']);
  });
});

describe('several passes', () => {
  const passes = [
    movingBrief.passes[0],
    { name: 'depth', role: 'depth', pattern: 'depth/orr_010_depth.####.exr' },
    { name: 'matte', role: 'matte', pattern: 'matte/orr_010_matte.####.png' },
  ];
  const depthPath = (frame: number) => `depth/orr_010_depth.${frame}.exr`;
  const mattePath = (frame: number) => `matte/orr_010_matte.${frame}.png`;

  function shot(matteAt: (frame: number) => number | null = (f) => (f - FIRST + 4) / 32): VirtualFolder {
    const folder = movingShot();
    for (let frame = FIRST; frame <= LAST; frame++) {
      folder[depthPath(frame)] = movingFrame({ at: (frame - FIRST + 4) / 32, seed: 1, noise: 0, camera: 1, alpha: 'opaque' });
      folder[mattePath(frame)] = matteFrame(matteAt(frame));
    }
    return folder;
  }

  it('agree', () => {
    expect(short(count(shot(), { ...movingBrief, passes }))).toEqual([]);
  });

  it('name the pass whose frames hold another’s picture, with the original beside it', () => {
    const folder = shot();
    for (const frame of [1010, 1011]) folder[depthPath(frame)] = folder[beautyPath(frame)];
    const result = count(folder, { ...movingBrief, passes });
    const copied = result.findings.find(({ code }) => code === 'copied-pass')!;
    expect(copied).toMatchObject({ pass: 'depth', frames: frameSetSchema.parse('1010-1011'), detail: 'beauty' });
    expect(copied.evidence[0]).toMatchObject({ file: depthPath(1010), beside: beautyPath(1010) });
  });

  it('name the later one where all frames are copies', () => {
    const folder = shot();
    for (let frame = FIRST; frame <= LAST; frame++) folder[depthPath(frame)] = folder[beautyPath(frame)];
    expect(short(count(folder, { ...movingBrief, passes }))).toEqual(['copied-pass depth 1001-1024']);
  });

  it('may stay as they are without their noise where they had none, but not be copied there', () => {
    const [lightPath, cleanPath] = ['light', 'light_denoised'].map((pass) => (frame: number) => `${pass}/${pass}.${frame}.exr`) as [
      typeof depthPath,
      typeof depthPath,
    ];
    const ordered = [
      movingBrief.passes[0],
      { name: 'light', role: 'light', pattern: 'light/light.####.exr' },
      { name: 'light_denoised', role: 'light', pattern: 'light_denoised/light_denoised.####.exr', denoisedFrom: 'light' },
    ];
    // The shot has one light: it may be like the beauty, and both may have no noise.
    const folder = movingShot(() => ({ noise: 0 }));
    for (let frame = FIRST; frame <= LAST; frame++) {
      folder[lightPath(frame)] = folder[beautyPath(frame)];
      folder[cleanPath(frame)] = movingFrame({ at: (frame - FIRST + 4) / 32, seed: frame, noise: 0, metadata: { denoised: 'strength middle (1)' } });
    }
    expect(short(count(folder, { ...movingBrief, passes: ordered }))).toEqual([]);
    folder[cleanPath(1012)] = folder[lightPath(1012)];
    expect(short(count(folder, { ...movingBrief, passes: ordered }))).toEqual(['copied-pass light_denoised 1012']);
  });

  it('may be delivered in two formats', () => {
    const size = { width: 32, height: 18 };
    const folder: VirtualFolder = {};
    for (let frame = 1; frame <= 8; frame++) {
      const rgb = Uint8Array.from(
        { length: size.width * size.height * 3 },
        (_, i) => ((i * 5 + frame * 3) & 127) + (Math.imul(i + frame * 7919, 2654435761) >>> 28),
      );
      folder[`review/orr_010.000${frame}.png`] = encodePng({ ...size, samplesPerPixel: 3, data: rgb }, tools);
      folder[`delivery/orr_010.000${frame}.tga`] = tgaFrame(size.width, size.height, rgb);
    }
    expect(short(count(folder, null))).toEqual([]);
    // As a pass of another kind it is still a copy.
    const [beauty, light] = ['review/orr_010.####.png', 'delivery/orr_010.####.tga'];
    const ordered = {
      shot: 'orr_010',
      range: '1-8',
      passes: [
        { name: 'beauty', role: 'beauty', pattern: beauty },
        { name: 'albedo', role: 'albedo', pattern: light },
      ],
    };
    expect(short(count(folder, ordered))).toEqual(['copied-pass albedo 1-8']);
  });

  it('may be empty where a matte has nothing to show, but not for one frame in between', () => {
    const leaving = (f: number) => (f > 1016 ? null : (f - FIRST) / 16 + 0.3);
    expect(short(count(shot(leaving), { ...movingBrief, passes }))).toEqual([]);
    const blinking = (f: number) => (f === 1009 ? null : (f - FIRST + 4) / 32);
    expect(short(count(shot(blinking), { ...movingBrief, passes }))).toEqual(['blank-frame matte 1009']);
  });
});
