<script lang="ts">
  import type { FrameState } from '@mint-tally/core';
  import StateMark from './StateMark.svelte';
  import { stateMeanings, stateTitles } from './states';

  const shown: FrameState[] = ['sound', 'missing', 'broken', 'wrong', 'odd', 'waived', 'later'];
</script>

<ul class="flex flex-wrap items-center gap-x-4 gap-y-0.5 text-[13px] text-soft" aria-label="What the shapes mean">
  {#each shown as state (state)}
    <li class="flex items-center gap-1.5" title={stateMeanings[state]}><StateMark {state} />{stateTitles[state]}</li>
  {/each}
</ul>
