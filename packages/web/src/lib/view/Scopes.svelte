<!-- Histogram and waveform of what is seen, worked out beside the page from the same pixels. -->
<script lang="ts">
  import { hasAlpha, WAVEFORM_LEVELS, type SentPicture } from '@mint-tally/core';
  import { backgroundLight } from './drawing';
  import type { ScopeTask, Scopes } from './scope-worker';
  import type { Viewing } from './viewing.svelte';

  let { viewing, picture, pass }: { viewing: Viewing; picture: SentPicture | null; pass: string } = $props();

  const COLUMNS = 236;
  const TALL = 72;
  let shown = $state(false);
  let scopes = $state.raw<Scopes | null>(null);
  let canvas: HTMLCanvasElement | undefined = $state();
  let worker: Worker | null = null;
  let isBusy = false;
  let next: ScopeTask | null = null;

  const isColour = $derived(picture !== null && viewing.readAs(pass, picture) === 'colour');

  function ask(task: ScopeTask) {
    // While one is worked out only the newest of the others waits.
    if (isBusy) {
      next = task;
      return;
    }
    isBusy = true;
    worker!.postMessage(task);
  }

  $effect(() => {
    if (!shown) return;
    const own = new Worker(new URL('./scope-worker.ts', import.meta.url), { type: 'module' });
    worker = own;
    own.onmessage = ({ data }: MessageEvent<Scopes>) => {
      scopes = data;
      isBusy = false;
      if (next) ask(next);
      next = null;
    };
    return () => {
      own.terminate();
      worker = null;
      isBusy = false;
      next = null;
      scopes = null;
    };
  });
  $effect(() => {
    if (!shown || !picture || !isColour) return;
    const light = backgroundLight(viewing.settings);
    const behind = light === 'check' || light === 'none' ? null : light;
    // Plain values: what the page watches cannot be sent.
    ask({
      picture,
      look: viewing.settings.look,
      alpha: { hasAlpha: hasAlpha(picture), straight: viewing.alphaOf(pass, picture).straight, behind },
      columns: COLUMNS,
    });
  });

  const lines = $derived.by(() => {
    if (!scopes) return [];
    // The ends hold what is black or white altogether, and would flatten all between.
    const most = Math.max(1, ...scopes.histogram.filter((_, i) => i % 256 > 0 && i % 256 < 255));
    return [0, 1, 2].map((channel) =>
      Array.from({ length: 256 }, (_, level) => {
        const share = Math.min(1, scopes!.histogram[channel * 256 + level]! / most);
        return `${((level / 255) * COLUMNS).toFixed(1)},${(TALL - Math.sqrt(share) * TALL).toFixed(1)}`;
      }).join(' '),
    );
  });
  const clipped = $derived.by(() => {
    if (!scopes || !picture) return '';
    const pixels = picture.info.width * picture.info.height;
    const share = (level: number) => (100 * Math.max(...[0, 1, 2].map((channel) => scopes!.histogram[channel * 256 + level]!))) / pixels;
    return `black ${share(0).toFixed(1)} %, white ${share(255).toFixed(1)} %`;
  });

  $effect(() => {
    if (!canvas || !scopes) return;
    const context = canvas.getContext('2d')!;
    const image = context.createImageData(COLUMNS, WAVEFORM_LEVELS);
    const full = scopes.waveform.reduce((sum, count) => sum + count, 0) / COLUMNS / 12;
    for (let column = 0; column < COLUMNS; column++) {
      for (let level = 0; level < WAVEFORM_LEVELS; level++) {
        const count = scopes.waveform[column * WAVEFORM_LEVELS + level]!;
        const at = ((WAVEFORM_LEVELS - 1 - level) * COLUMNS + column) * 4;
        const light = count === 0 ? 0 : Math.min(255, 60 + (195 * count) / full);
        image.data.set([light * 0.5, light, light * 0.75, 255], at);
      }
    }
    context.putImageData(image, 0, 0);
  });

  // Told apart without their colours as well.
  const strokes = [
    ['R', 'stroke-[#ff7a6b]', ''],
    ['G', 'stroke-[#6ee7b3]', '5 2'],
    ['B', 'stroke-[#7aa8ff]', '1.5 2'],
  ] as const;
</script>

<label class="mt-4 flex items-center gap-2 font-bold"><input type="checkbox" class="accent-(--mint)" bind:checked={shown} /> Histogram and waveform</label>
{#if shown}
  {#if !isColour}<p class="text-soft">Of colours only; this pass is read otherwise.</p>
  {:else}
    <svg viewBox="0 0 {COLUMNS} {TALL}" class="mt-1.5 block w-full bg-[#101010]" role="img" aria-label="Histogram of what is seen: {clipped}">
      {#each lines as line, i (i)}<polyline points={line} class={['fill-none', strokes[i]![1]]} stroke-width="1.2" stroke-dasharray={strokes[i]![2]} />{/each}
    </svg>
    <p class="text-[12px] text-soft">R line, G dashes, B dots; <span class="figure">{clipped}</span></p>
    <canvas
      bind:this={canvas}
      width={COLUMNS}
      height={WAVEFORM_LEVELS}
      class="mt-1.5 block w-full bg-[#101010]"
      aria-label="Waveform: brightness from black at the bottom to white, column by column"
    ></canvas>
    <p class="text-[12px] text-soft">Brightness, black below, white above</p>
  {/if}
{/if}
