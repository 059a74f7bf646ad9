import { packageWishSchema } from '@mint-tally/core';
import { describe, expect, it } from 'vitest';
import { sayWish, verifyLine } from '../src/lib/handoff/handoff-view';

const wish = (more: object = {}) => packageWishSchema.parse(more);

describe('the line that verifies a package', () => {
  const line = (path: string, more: object = {}, volumes = 1) => verifyLine({ path, wish: wish(more), volumes });

  it('goes into a folder, each volume, or a tar that is unpacked first', () => {
    expect(line('/out/p_001')).toBe("cd '/out/p_001' && sha256sum -c manifest-sha256.txt");
    expect(line('/out/p_001', { volumeSize: 1e9 }, 2)).toBe('for v in \'/out/p_001\'/volume_*; do (cd "$v" && sha256sum -c manifest-sha256.txt); done');
    expect(line('/out/p_001.tar', { form: 'tar' })).toBe("tar -xf '/out/p_001.tar' && cd 'p_001' && sha256sum -c manifest-sha256.txt");
    expect(line('/out/p_001', { form: 'tar' })).toContain("cd 'p_001_package'");
    expect(line('/out/p_001', { form: 'tar', volumeSize: 1e9 }, 2)).toContain('for v in volume_*.tar; do tar -xf $v');
  });

  it('is one word for a shell, whatever stands in a path', () => {
    expect(line("/ou't/p 1")).toBe("cd '/ou'\\''t/p 1' && sha256sum -c manifest-sha256.txt");
  });
});

describe('what was chosen for a package', () => {
  it('is said in words, and nothing where it is the whole shot', () => {
    expect(sayWish(wish())).toBe('');
    expect(sayWish(wish({ passes: ['beauty', 'depth'], range: '1001-1024', withHandles: false, form: 'tar', since: 3 }))).toBe(
      'what is new since an earlier one, beauty, depth, 1001-1024, without handles, tar',
    );
    expect(sayWish(wish({ taking: 'link', volumeSize: 4e9 }))).toBe('in volumes, hard links');
  });
});
