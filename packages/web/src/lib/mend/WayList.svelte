<!-- What can be mended, with how much there is of each now. -->
<script lang="ts">
  import { counted } from '$lib/text/format';

  interface Counts {
    readonly rename: { steps: number; conflicts: number };
    readonly trim: { steps: number; conflicts: number };
    readonly hold: { steps: number; conflicts: number };
    readonly list: readonly { leftCount: number }[];
    readonly kept: readonly { bytes: number; fileCount: number }[];
  }
  let { counts, chosen }: { counts: Counts; chosen: string } = $props();

  const sayCount = ({ steps, conflicts }: { steps: number; conflicts: number }) =>
    steps + conflicts === 0
      ? 'nothing'
      : [steps > 0 ? counted(steps, 'file') : '', conflicts > 0 ? counted(conflicts, 'conflict') : ''].filter(Boolean).join(', ');
  const left = $derived(counts.list.reduce((sum, { leftCount }) => sum + leftCount, 0));
  const kept = $derived(counts.kept.reduce((sum, { fileCount }) => sum + fileCount, 0));

  const ways = $derived([
    [
      'list',
      'Mend list',
      'Frames to render again, by pass',
      left === 0 ? (counts.list.length === 0 ? 'nothing listed' : 'all back') : `${counted(left, 'frame')} to come`,
    ],
    ['patch', 'Patch', 'Another folder’s frames for bad ones', ''],
    ['rename', 'Rename to the brief', 'Padding, separators, case, folder, slips', sayCount(counts.rename)],
    ['renumber', 'Renumber', 'All passes by so many frames', ''],
    ['swap', 'Swap two passes', 'Files under each other’s names', ''],
    ['trim', 'Set aside', 'What was not ordered; handles, first frames', sayCount(counts.trim)],
    ['hold', 'Hold', 'Neighbours as stopgaps in holes', sayCount(counts.hold)],
    ['convert', 'Convert', 'Format, depth, packing, alpha, layers', ''],
    ['conform', 'Conform', 'To another frame rate', ''],
    ['kept', 'What is kept', 'Taken out by mends: bring back, let go', kept === 0 ? 'empty' : counted(kept, 'file')],
  ] as const);
</script>

<nav aria-label="What can be mended" class="space-y-1 small:grid small:grid-cols-3 small:gap-1 small:space-y-0">
  {#each ways as [what, title, hint, count] (what)}
    <a
      href="?do={what}"
      class={['block border-l-2 px-3 py-1 hover:bg-hover', chosen === what ? 'border-mint bg-raised' : 'border-line']}
      aria-current={chosen === what ? 'page' : undefined}
    >
      <span class="flex items-baseline justify-between gap-2"><b>{title}</b><span class="text-right text-[13px]">{count}</span></span>
      <span class="block text-[12.5px] text-soft small:hidden">{hint}</span>
    </a>
  {/each}
</nav>
