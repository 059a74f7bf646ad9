import { operations } from '$lib/api/operations';
import { serve } from '$lib/server/api';
import { readMendPage } from '$lib/server/mends';

export const POST = serve(operations.previewMend, async ({ shot, body: { wish } }) => {
  const { preview, problem } = await readMendPage(shot, { wish, problem: '' }, wish.kind);
  // What the engine looked into last may be of another wish of this kind.
  const isOfThis = preview !== null && JSON.stringify(preview.wish) === JSON.stringify(wish);
  if (!isOfThis)
    return { preview: null, problem: problem || 'Nobody has looked into the files for this yet: ask for the job mend with the action preview first.' };
  const { steps, conflicts, refused, words } = preview;
  return {
    preview: {
      ...preview,
      steps: steps.map((step) => ({ ...step })),
      conflicts: conflicts.map((one) => ({ ...one, files: [...one.files] })),
      refused: [...refused],
      words: [...words],
    },
    problem: '',
  };
});
