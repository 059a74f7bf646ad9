import { describe, expect, it } from 'vitest';
import { findingCodes, findingGuide, writeFindingsDocument } from '../src/index.ts';

describe('the guide to the findings', () => {
  it('is what docs/findings.md says; vitest -u writes it anew', async () => {
    await expect(writeFindingsDocument()).toMatchFileSnapshot('../../../docs/findings.md');
  });

  it('says of every code what raises it, why it matters and what to do', () => {
    for (const code of Object.keys(findingCodes)) {
      const { raised, why, remedy } = findingGuide[code as keyof typeof findingGuide];
      for (const sentence of [raised, why, remedy]) expect(sentence, code).toMatch(/^[A-Z].+[.]$/);
    }
  });
});
