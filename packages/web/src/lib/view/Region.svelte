<!-- A marked region: what its values come to. -->
<script lang="ts">
  import { regionSums, type SentPicture } from '@mint-tally/core';
  import { sayValue } from './say-value';
  import type { Viewing } from './viewing.svelte';

  let { viewing, picture }: { viewing: Viewing; picture: SentPicture | null } = $props();

  const sums = $derived(picture && viewing.region && !viewing.player.playing ? regionSums(picture, viewing.region) : []);
  const sides = ['left', 'top', 'wide', 'high'] as const;
</script>

<h2>Region</h2>
<div class="flex flex-wrap gap-2">
  <button
    type="button"
    class="button button-small"
    aria-pressed={viewing.marking}
    title="Then drag in the picture (Q); a drag with Ctrl marks one at any time"
    onclick={() => (viewing.marking = !viewing.marking)}>{viewing.marking ? 'Drag in the picture' : 'Mark a region'}</button
  >
  {#if viewing.region}<button type="button" class="button button-small" onclick={() => (viewing.region = null)}>Clear</button>{/if}
</div>
{#if viewing.region}
  <div class="mt-1.5 grid grid-cols-4 gap-1">
    {#each sides as side, i (side)}
      <label class="text-[12px] text-soft"
        >{side}<input
          type="number"
          class="field figure !px-1 !py-0.5 text-[12px]"
          value={viewing.region[i]}
          min={i > 1 ? 1 : undefined}
          oninput={(event) => viewing.setRegionSide(i, event.currentTarget.valueAsNumber)}
        /></label
      >
    {/each}
  </div>
  {#if sums.length > 0}
    <table class="mt-1.5 w-full">
      <thead class="text-[12px] text-soft"
        ><tr
          ><th class="text-left font-normal">channel</th><th class="text-right font-normal">least</th><th class="text-right font-normal">mean</th><th
            class="text-right font-normal">most</th
          ></tr
        ></thead
      >
      <tbody>
        {#each sums as { channel, least, mean, most, odd } (channel)}
          <tr>
            <th class="max-w-[70px] truncate text-left font-normal text-soft" title={channel}>{channel}</th>
            {#each [least, mean, most] as value, i (i)}<td class="figure text-right text-[12px]"
                >{sayValue(Number(value.toPrecision(4)), picture!.info.type)}</td
              >{/each}
          </tr>
          {#if odd > 0}<tr><td colspan="4" class="text-bad">{odd} of {channel} are no finite numbers; the sums leave them out</td></tr>{/if}
        {/each}
      </tbody>
    </table>
  {/if}
{/if}
