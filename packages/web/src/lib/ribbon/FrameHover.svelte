<!-- Everything that is known of the file under the pointer. -->
<script lang="ts">
  import { frameInfoSchema, type FrameInfo } from '$lib/frame/frame-info';
  import StateMark from '$lib/states/StateMark.svelte';
  import { stateTitles } from '$lib/states/states';
  import { sayBytes, formatMoment } from '$lib/text/format';
  import { stateOfRank } from './ribbon-model';

  let {
    shotId,
    pass,
    frame,
    rank,
    x,
    y,
  }: { shotId: number; pass: string; frame: number; rank: number; /** Where the pointer is in the window. */ x: number; y: number } = $props();

  const WIDE = 340;
  let info: FrameInfo | null = $state(null);
  const shape = $derived(stateOfRank(rank));
  const left = $derived(x + 16 + WIDE > window.innerWidth ? Math.max(0, x - WIDE - 16) : x + 16);

  $effect(() => {
    const query = new URLSearchParams({ pass, frame: String(frame) }).toString();
    info = null;
    const stop = new AbortController();
    // Only where the pointer rests is asked for.
    const timer = setTimeout(async () => {
      try {
        const response = await fetch(`/shots/${shotId}/frame?${query}`, { signal: stop.signal });
        if (response.ok) info = frameInfoSchema.parse(await response.json());
      } catch {
        // The frame and its state are told all the same.
      }
    }, 90);
    return () => {
      clearTimeout(timer);
      stop.abort();
    };
  });
</script>

<div
  class="pointer-events-none fixed z-30 border border-line bg-raised px-3 py-2 text-[12.5px] shadow-xl"
  style="width: {WIDE}px; left: {left}px; top: {y + 18}px"
  role="tooltip"
>
  <p class="flex items-center gap-2">
    <StateMark state={shape ?? 'later'} size={12} /><b>{pass}</b> <span class="figure">{frame}</span>
    <span class="text-soft">{shape ? stateTitles[shape] : 'not ordered'}</span>
  </p>
  {#if info && info.files.length === 0 && shape}<p class="figure mt-1 break-all text-soft">{info.ordered}</p>{/if}
  {#each info?.files ?? [] as file (file.path)}
    <p class="figure mt-1 break-all">{file.path}</p>
    {#if file.problem ?? file.notExamined}<p class="text-soft">{file.problem ?? file.notExamined}</p>{/if}
    <p class="text-soft">
      {[...file.facts.map(([name, value]) => (name === 'Samples' ? `${value} samples` : value)), sayBytes(file.size), formatMoment(file.modified)].join(' · ')}
    </p>
  {/each}
</div>
