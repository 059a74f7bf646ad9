<!-- Which passes and figures the full ribbon shows. -->
<script lang="ts">
  import Check from '@lucide/svelte/icons/check';
  import SlidersHorizontal from '@lucide/svelte/icons/sliders-horizontal';
  import { DropdownMenu } from 'bits-ui';
  import { figureLanes, useShotView, type FigureLane } from '$lib/shot/shot-view.svelte';

  const view = useShotView();
  const titles: Record<FigureLane, string> = {
    ...{ noise: 'Noise', temporalNoise: 'Noise in time', meanLuminance: 'Luminance', fireflies: 'Fireflies' },
    ...{ size: 'File size', machine: 'Machine', watched: 'Watched' },
  };
  const item = 'flex items-center gap-2 px-3 py-1 text-[13px] outline-none data-highlighted:bg-hover';
  const without = <Value,>(list: readonly Value[], value: Value) => list.filter((entry) => entry !== value);
</script>

<DropdownMenu.Root>
  <DropdownMenu.Trigger class="flex items-center gap-1 rounded px-1 text-[12px] text-soft hover:bg-hover hover:text-ink" title="Lanes on and off"
    ><SlidersHorizontal size={13} aria-hidden="true" />Lanes{#if view.hidden.length > 0}<span class="figure"
        >{view.model.lanes.length - view.hidden.length}</span
      >{/if}</DropdownMenu.Trigger
  >
  <DropdownMenu.Portal>
    <DropdownMenu.Content class="z-50 max-h-[60vh] min-w-[180px] overflow-y-auto border border-line bg-raised py-1 shadow-xl" align="start">
      <DropdownMenu.Group>
        <DropdownMenu.GroupHeading class="px-3 py-1 text-[12px] text-soft">Passes</DropdownMenu.GroupHeading>
        {#each view.model.lanes as { name } (name)}
          <DropdownMenu.CheckboxItem
            class={item}
            closeOnSelect={false}
            checked={!view.hidden.includes(name)}
            onCheckedChange={(on) => (view.hidden = on ? without(view.hidden, name) : [...view.hidden, name])}
          >
            {#snippet children({ checked })}<span class="w-4"
                >{#if checked}<Check size={14} aria-hidden="true" />{/if}</span
              >{name}{/snippet}
          </DropdownMenu.CheckboxItem>
        {/each}
      </DropdownMenu.Group>
      <DropdownMenu.Group>
        <DropdownMenu.GroupHeading class="mt-1 border-t border-line px-3 py-1 text-[12px] text-soft">Figures</DropdownMenu.GroupHeading>
        {#each figureLanes as lane (lane)}
          <DropdownMenu.CheckboxItem
            class={item}
            closeOnSelect={false}
            checked={view.figures.includes(lane)}
            onCheckedChange={(on) => (view.figures = on ? [...view.figures, lane] : without(view.figures, lane))}
          >
            {#snippet children({ checked })}<span class="w-4"
                >{#if checked}<Check size={14} aria-hidden="true" />{/if}</span
              >{titles[lane]}{/snippet}
          </DropdownMenu.CheckboxItem>
        {/each}
      </DropdownMenu.Group>
    </DropdownMenu.Content>
  </DropdownMenu.Portal>
</DropdownMenu.Root>
