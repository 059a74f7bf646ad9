import type { Page } from '@playwright/test';

/** The panel beside the brief's form. */
export const sums = (page: Page) => page.getByRole('complementary', { name: 'What the brief comes to' });

/** An entry of the form by its label. */
export const field = (page: Page, name: string) => page.getByLabel(name, { exact: true });

/** Unfolds the entries that are seldom said. */
export const unfold = (page: Page) => page.getByText('Test frames, cuts, sound, scale').click();

/** Real entries and what the panel says of them, with the sum that shows it. */
export const told: readonly (readonly [what: string, enter: (page: Page) => Promise<unknown>, code: string, sum: string])[] = [
  ['a range one frame short', (page) => field(page, 'Frame range').fill('1001-1047'), 'range-short', '1047 - 1001 + 1 = 47 = 2 x 24 - 1'],
  ['a range one frame long', (page) => field(page, 'Frame range').fill('0-48'), 'range-long', '48 - 0 + 1 = 49 = 2 x 24 + 1'],
  ['a cut of another length', (page) => field(page, 'Cut lasts').fill('5 s'), 'duration-mismatch', '5 s = 120 frames'],
  [
    'a loop that repeats its first frame',
    async (page) => {
      await page.getByLabel('It loops').check();
      await field(page, 'Frame range').fill('1001-1049');
    },
    'loop-repeat',
    '49 = 2 x 24 + 1',
  ],
  [
    'a sound that is longer than the picture',
    async (page) => {
      await field(page, 'Sound (WAV beside the frames)').fill('sound/long.wav');
      await page.getByRole('button', { name: 'Read length' }).click();
    },
    'duration-mismatch',
    '120000 / 48000 Hz = 2.500 s = 60.0 frames; the cut has 48',
  ],
  [
    'padding too short for the last frame',
    (page) => page.getByLabel('Name pattern of beauty').fill('b.##.png'),
    'padding-overflow',
    '1001 has 4 digits; b.##.png has room for 2',
  ],
  ['a scale that is not 100 %', (page) => field(page, 'Scale, %').fill('50'), 'scaled-render', '16 x 9 of 32 x 18'],
  ['a crop', (page) => field(page, 'Crop').fill('0 0 16 18'), 'scaled-render', '50 % of the pixels'],
  ['a lossy format', (page) => page.getByLabel('Name pattern of beauty').fill('b.####.jpg'), 'lossy-format', '256 code values at most'],
  ['a name that will not travel', (page) => page.getByLabel('Name pattern of beauty').fill('aux/b.####.png'), 'unsafe-name', 'Windows reserves this name'],
  [
    'two passes that write one file',
    async (page) => {
      await page.getByRole('button', { name: 'Add pass' }).click();
      await page.getByLabel('Name of pass 2').fill('depth');
      await page.getByLabel('Name pattern of depth').fill('beauty/orr_090_beauty.####.png');
    },
    'name-collision',
    'both name beauty/orr_090_beauty.1001.png',
  ],
  [
    'a depth pass in 8 bit',
    async (page) => {
      await page.getByLabel('Role of beauty').selectOption('depth');
      await page.getByLabel('Depth of beauty').selectOption('8');
    },
    'role-depth',
    '2^8 = 256 values',
  ],
  [
    '32 bit floats where half would do',
    async (page) => {
      await page.getByLabel('Name pattern of beauty').fill('b.####.exr');
      await page.getByLabel('Depth of beauty').selectOption('float');
    },
    'heavy-format',
    '2 bytes x 48 frames',
  ],
  ['a folder that is cleared', async () => undefined, 'temporary-folder', '/tmp/'],
  [
    'a disk that is too small',
    async (page) => {
      await field(page, 'Width').fill('65536');
      await field(page, 'Height').fill('65536');
      await field(page, 'Frame range').fill('1-900000');
      await page.getByLabel('Name pattern of beauty').fill('other/b.######.exr');
      await page.getByLabel('Name of pass 1').fill('wide');
    },
    'disk-short',
    'are lacking',
  ],
  [
    '16 bit integers where half would do',
    async (page) => {
      await page.getByLabel('Role of beauty').selectOption('beauty');
      await page.getByLabel('Depth of beauty').selectOption('16');
    },
    'heavy-format',
    'the highlights lost',
  ],
  [
    'alpha without a channel',
    async (page) => {
      await page.getByLabel('Alpha of beauty').selectOption('straight');
      await page.getByLabel('Channels of beauty').fill('R G B');
    },
    'alpha-lacking',
    'channels R G B',
  ],
];
