<!-- Above the picture: which pass, which channel, how light becomes what is seen, how large. -->
<script lang="ts">
  import type { SentPicture, ViewTransform } from '@mint-tally/core';
  import Segments from '$lib/controls/Segments.svelte';
  import Select from '$lib/controls/Select.svelte';
  import { useShotView } from '$lib/shot/shot-view.svelte';
  import TableChoice from './TableChoice.svelte';
  import type { ChannelChoice, ReadAs } from './drawn';
  import { PIXELS } from './view-settings.svelte';
  import type { Viewing } from './viewing.svelte';

  let { shotId, viewing, picture }: { shotId: number; viewing: Viewing; picture: SentPicture | null } = $props();

  const view = useShotView();
  const { settings } = $derived(viewing);

  const passes = $derived(view.model.lanes.map((lane) => lane.name));
  const readAs = $derived(picture ? viewing.readAs(view.pass, picture) : 'colour');
  const shortName = (channel: string) => channel.slice(channel.lastIndexOf('.') + 1);
  const own = $derived(picture?.info.channels ?? []);
  const channels = $derived.by((): readonly (readonly [ChannelChoice, string, string?])[] => {
    const single: (readonly [ChannelChoice, string, string?])[] = own
      .slice(0, 3)
      .map((name, i) => [(['first', 'second', 'third'] as const)[i]!, shortName(name), name]);
    if (own.length === 4) single.push(['alpha', shortName(own[3]!), own[3]]);
    if (own.length < 2) return [['all', shortName(own[0] ?? 'all')]];
    return [['all', own.slice(0, 3).map(shortName).join('')], ...single, ...(readAs === 'colour' ? [['luminance', 'Lum', 'Luminance'] as const] : [])];
  });
  const others = $derived((picture?.info.all ?? []).filter((name) => settings.only === name || !own.includes(name)));

  const transforms: readonly (readonly [ViewTransform, string])[] = [
    ['srgb', 'sRGB'],
    ['rec709', 'Rec. 709'],
    ['linear', 'linear'],
    ['log', 'log'],
  ];
  const readings: readonly (readonly [ReadAs | '', string])[] = [
    ['', 'values as usual'],
    ['colour', 'as colour'],
    ['range', 'as a range, fitted'],
    ['signs', 'as signs, zero grey'],
    ['things', 'as numbers, a colour each'],
  ];
  const zoomNow = $derived(settings.zoom === null ? 'fit' : [1, 2, PIXELS].includes(settings.zoom) ? String(settings.zoom) : '');
</script>

<div
  class="flex min-h-[42px] shrink-0 flex-wrap items-center gap-x-3 gap-y-1 border-b border-line bg-bar px-4 py-1 text-[13px]"
  role="group"
  aria-label="What is seen"
>
  <Select
    look="quiet"
    labelHidden
    label="Pass"
    class="!max-w-[12rem] font-bold !text-ink"
    bind:value={() => view.pass, (one) => view.choosePass(one)}
    options={passes.map((name): [string, string] => [name, name])}
  />
  <Segments label="Channel" value={settings.channel} options={channels} onchoose={(channel) => (settings.channel = channel)} />
  {#if others.length > 0}
    <Select
      look="quiet"
      labelHidden
      label="Other channels of the file"
      bind:value={
        () => settings.only ?? '',
        (one) => {
          settings.only = one || null;
          settings.channel = 'all';
        }
      }
      options={[['', 'other channels'], ...others.map((name): [string, string] => [name, name])]}
    />
  {/if}
  <Select
    look="quiet"
    labelHidden
    label="Read values as"
    class="!max-w-none"
    bind:value={() => settings.readAs ?? '', (one) => (settings.readAs = (one || null) as ReadAs | null)}
    options={readings}
  />
  {#if readAs === 'colour'}
    <span class="flex items-center gap-1.5">
      <span class="text-soft">Exposure</span>
      <span class="segments" role="group" aria-label="Exposure">
        <button type="button" aria-label="Half a stop darker" title="Half a stop darker (Shift + E)" onclick={() => settings.turnExposure(-0.5)}>-</button>
        <button
          type="button"
          class="figure w-[6ch]"
          title="Back to 0"
          aria-label="Exposure {settings.exposure} stops, back to 0"
          onclick={() => (settings.exposure = 0)}>{settings.exposure > 0 ? '+' : ''}{settings.exposure.toFixed(1)}</button
        >
        <button type="button" aria-label="Half a stop brighter" title="Half a stop brighter (E)" onclick={() => settings.turnExposure(0.5)}>+</button>
      </span>
    </span>
    <span class="flex items-center gap-1.5">
      <span class="text-soft">Gamma</span>
      <span class="segments" role="group" aria-label="Gamma">
        <button type="button" aria-label="Less gamma" title="Less (Shift + G)" onclick={() => settings.turnGamma(-0.1)}>-</button>
        <button type="button" class="figure w-[6ch]" title="Back to 1" aria-label="Gamma {settings.gamma}, back to 1" onclick={() => (settings.gamma = 1)}
          >{settings.gamma.toFixed(2)}</button
        >
        <button type="button" aria-label="More gamma" title="More (G)" onclick={() => settings.turnGamma(0.1)}>+</button>
      </span>
    </span>
    <Select
      look="quiet"
      labelHidden
      label="View"
      bind:value={() => settings.transform, (one) => (settings.transform = one as ViewTransform)}
      options={transforms}
    />
  {/if}
  {#if readAs === 'colour'}<TableChoice {settings} />{/if}
  <span class="flex-1"></span>
  <a class="button button-small" href="/shots/{shotId}/view/sheet" title="Frames side by side (U)">Sheet</a>
  <Segments
    label="Size"
    value={zoomNow}
    options={[
      ['fit', 'fit', 'The whole picture (F)'],
      ['1', '100 %', 'One pixel of the picture is one of the screen (1)'],
      ['2', '200 %', 'Twice as large (2)'],
      [String(PIXELS), 'pixels', 'So large that the values stand in the pixels (Z)'],
    ]}
    onchoose={(choice) => {
      settings.zoom = choice === 'fit' ? null : Number(choice);
      if (choice === 'fit') settings.centre = [0.5, 0.5];
    }}
  />
</div>
