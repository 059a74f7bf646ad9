<!-- Beside the picture: what is behind the alpha, marks over it, the values under the pointer, what file it is. -->
<script lang="ts">
  import { hasAlpha, stopBands, valueRangeOf, type SentPicture } from '@mint-tally/core';
  import HeatLegend from '$lib/assay/HeatLegend.svelte';
  import { counted } from '$lib/text/format';
  import Segments from '$lib/controls/Segments.svelte';
  import Select from '$lib/controls/Select.svelte';
  import type { ShotState } from '$lib/server/shot-state';
  import { useShotView } from '$lib/shot/shot-view.svelte';
  import Comparing from './Comparing.svelte';
  import NotesHere from './NotesHere.svelte';
  import Probe from './Probe.svelte';
  import Region from './Region.svelte';
  import { sayValue } from './say-value';
  import Scopes from './Scopes.svelte';
  import { backgrounds, type AlphaReading, type Background } from './view-settings.svelte';
  import type { Viewing } from './viewing.svelte';

  let {
    state: shot,
    roots,
    viewing,
    picture,
  }: { state: ShotState; roots: readonly { name: string; path: string }[]; viewing: Viewing; picture: SentPicture | null } = $props();

  const view = useShotView();
  const { settings } = $derived(viewing);
  const target = $derived(shot.brief.sampling?.noise ?? null);
  const readAs = $derived(picture ? viewing.readAs(view.pass, picture) : 'colour');
  /** Values that become black and white, or the largest size of a signed one. */
  const fitted = $derived(picture && (readAs === 'range' || readAs === 'signs') ? (settings.range ?? valueRangeOf(picture, readAs === 'signs' ? 3 : 1)) : null);
  const entry = $derived(viewing.pictures.entryOf(view.column));

  /** The pass that shows through the alpha; another folder can be chosen among what is compared with. */
  const passBehind = $derived(settings.compareAs === 'behind' && settings.against.startsWith('pass:') ? settings.against : '');
  const passesBehind = $derived([
    ['', 'none'],
    ...view.model.lanes.filter(({ name }) => name !== view.pass).map(({ name }): [string, string] => [`pass:${name}`, name]),
  ] as [string, string][]);
  function showBehind(against: string) {
    settings.against = against;
    if (against !== '') settings.compareAs = 'behind';
  }

  const sayStop = (stop: number) => `${stop > 0 ? '+' : ''}${stop}`;
  const alphaOptions: readonly (readonly [AlphaReading, string])[] = [
    ['as said', 'as said'],
    ['straight', 'straight'],
    ['premultiplied', 'premult.'],
  ];
</script>

<aside
  class="w-[272px] shrink-0 overflow-y-auto border-l border-line bg-bar px-4 py-3 text-[13px] small:order-2 small:w-full small:border-t small:border-l-0 [&_h2]:mt-4 [&_h2]:mb-1 [&_h2]:font-bold [&_h2:first-child]:mt-0"
  aria-label="What is looked at"
>
  {#if picture && hasAlpha(picture) && readAs === 'colour'}
    <h2>Behind the alpha</h2>
    <Segments
      label="Behind the alpha"
      value={settings.background === 'colour' ? '' : settings.background}
      options={backgrounds.map((one): [string, string] => [one, one])}
      onchoose={(one) => (settings.background = one as Background)}
    />
    <label class="mt-1.5 flex items-center gap-2"
      ><input
        type="color"
        bind:value={settings.colour}
        oninput={() => (settings.background = 'colour')}
        onclick={() => (settings.background = 'colour')}
        class="h-6 w-10"
      />
      a colour{settings.background === 'colour' ? ', shown' : ''}</label
    >
    <div class="mt-1.5"><Select label="or a pass" bind:value={() => passBehind, showBehind} options={passesBehind} /></div>
    <h2>Alpha is read as</h2>
    <Segments label="Alpha is read as" value={settings.alpha} options={alphaOptions} onchoose={(one) => (settings.alpha = one)} />
    {#if settings.alpha === 'as said'}<p class="mt-0.5 text-soft">{viewing.alphaOf(view.pass, picture).said}</p>{/if}
  {/if}
  <Comparing {viewing} {roots} />
  <h2>Marks</h2>
  {#if readAs === 'colour'}
    <label class="flex items-center gap-2"
      ><input type="checkbox" class="accent-(--mint)" bind:checked={settings.markRange} /> above 1 and below 0 striped</label
    >
    <label class="flex items-center gap-2"
      ><input type="checkbox" class="accent-(--mint)" bind:checked={settings.falseColour} /> false colours, a stop each</label
    >
  {/if}
  <label class="flex items-center gap-2"><input type="checkbox" class="accent-(--mint)" bind:checked={settings.outlines} /> outline of the data window</label>
  <label class="flex items-center gap-2"><input type="checkbox" class="accent-(--mint)" bind:checked={settings.safeAreas} /> safe areas, 93 % and 90 %</label>
  <label class="flex items-center gap-2"><input type="checkbox" class="accent-(--mint)" bind:checked={settings.grid} /> thirds</label>
  <label class="flex items-center gap-2"><input type="checkbox" class="accent-(--mint)" bind:checked={settings.noise} /> noise and fireflies, as measured</label
  >
  {#if settings.noise && viewing.noise && 'tiles' in viewing.noise}
    <div class="my-1 pl-5">
      <HeatLegend sigmas={viewing.noise.tiles.sigmas} ordered={target} />
      {#if viewing.noise.tiles.fireflies}<p class="mt-1 text-[12px] text-soft">
          {counted(viewing.noise.tiles.fireflies.count, 'firefly', 'fireflies')}, each in a ring
        </p>{/if}
    </div>
  {/if}
  <label class="flex items-center gap-2"
    ><input type="checkbox" class="accent-(--mint)" bind:checked={viewing.pictures.holdsMissing} /> hold over missing frames</label
  >
  {#if picture && picture.info.pixelAspect !== 1}
    <label class="flex items-center gap-2"
      ><input type="checkbox" class="accent-(--mint)" bind:checked={settings.pixelAspect} /> pixel aspect {picture.info.pixelAspect}</label
    >
  {/if}
  {#if settings.falseColour && readAs === 'colour'}
    <h2>Stops around middle grey</h2>
    <ol class="flex flex-col-reverse">
      {#each stopBands as { from, colour }, band (from)}
        <li class="flex items-center gap-2">
          <span class="h-3.5 w-8" style="background: rgb({colour.join(' ')})"></span><span class="figure"
            >{from === -Infinity ? 'darker' : band === stopBands.length - 1 ? `+${from} and up` : `${sayStop(from)} to ${sayStop(from + 1)}`}</span
          >
        </li>
      {/each}
    </ol>
  {/if}
  {#if fitted}
    <h2>{readAs === 'signs' ? 'Signs' : 'Black to white'}</h2>
    <p class="figure">
      {readAs === 'signs'
        ? `± ${sayValue(Math.max(Math.abs(fitted[0]), Math.abs(fitted[1])), picture!.info.type)}`
        : `${sayValue(fitted[0], picture!.info.type)} to ${sayValue(fitted[1], picture!.info.type)}`}
    </p>
    <label class="flex items-center gap-2"
      ><input type="checkbox" class="accent-(--mint)" bind:checked={() => settings.range !== null, (held) => (settings.range = held ? fitted : null)} /> the same
      for every frame</label
    >
  {/if}
  <Probe {viewing} {picture} />
  <Region {viewing} {picture} />
  <Scopes {viewing} {picture} pass={view.pass} />
  <NotesHere state={shot} {viewing} />
  {#if picture}
    <h2>Picture</h2>
    <dl class="grid grid-cols-[1fr_auto] gap-x-2 [&>dd]:figure [&>dd]:text-right [&>dt]:text-soft">
      <dt>Size</dt>
      <dd>{picture.info.full.join(' x ')}</dd>
      <dt>Samples</dt>
      <dd>{picture.info.type === 'u8' ? '8 bit' : picture.info.type === 'u16' ? '16 bit' : picture.info.type}</dd>
    </dl>
    {#if entry !== null}<p class="figure mt-1 text-[12px] break-all text-soft">{viewing.pictures.list.paths[entry]}</p>{/if}
  {/if}
</aside>
