<!-- The picture under the playhead, drawn from the file's own pixels; what stands in its place when there is none. -->
<script lang="ts">
  import { untrack } from 'svelte';
  import { findingCodes, hasAlpha, type SentPicture } from '@mint-tally/core';
  import { askTiles } from '$lib/assay/ask-tiles';
  import { stateOfRank } from '$lib/ribbon/ribbon-model';
  import type { ShotState } from '$lib/server/shot-state';
  import { useShotView } from '$lib/shot/shot-view.svelte';
  import StateMark from '$lib/states/StateMark.svelte';
  import { stateTitles } from '$lib/states/states';
  import { drawAll, sideOf, zoomOf, type Sided } from './drawing';
  import NoiseOver from './NoiseOver.svelte';
  import { PicturePointer } from './picture-pointer';
  import { sayOther } from './other-folder';
  import OverPicture from './OverPicture.svelte';
  import { canDrawQuickly, QuickCanvas } from './quick-canvas';
  import { NoRoomError } from './picture-texture';
  import { NoGraphicsError, Renderer } from './renderer';
  import { StillRenderer } from './still-renderer';
  import type { Viewing } from './viewing.svelte';

  let { state: shot, viewing }: { state: ShotState; viewing: Viewing } = $props();

  const view = useShotView();
  const { settings, player } = $derived(viewing);
  const { cache } = $derived(viewing.pictures);

  let canvas: HTMLCanvasElement | undefined = $state();
  const { screen } = $derived(viewing);
  let renderer: Renderer | StillRenderer | null = $state.raw(null);
  /** Counts up when the card has lost its memory and has it again. */
  let revived = $state(0);
  let noGraphics = $state('');
  /** What plays is drawn by the processor where no card would do it. */
  let onProcessor = $state(false);
  let isQuick = $state(false);
  let quickCanvas: HTMLCanvasElement | undefined = $state();
  let quick: QuickCanvas | null = null;

  const column = $derived(viewing.pictures.shownFor(view.column));
  const held = $derived.by(() => {
    void cache.version;
    return cache.get(column);
  });
  const picture = $derived(held && 'picture' in held ? held.picture : null);
  const lane = $derived(view.model.lanes.find((candidate) => candidate.name === view.pass) ?? null);
  const stateHere = $derived(lane ? stateOfRank(lane.ranks[view.column]!) : null);
  const hasFile = $derived(viewing.pictures.entryOf(column) !== null);
  const damage = $derived(shot.findings.find((finding) => finding.pass === view.pass && finding.frames.has(view.frame)));
  /** Where the notes on this frame are pinned. */
  const noted = $derived(
    shot.notes.flatMap((note) => (note.closed === null && note.pass === view.pass && note.rectangle && note.frames.has(view.frame) ? [note.rectangle] : [])),
  );
  /** While it plays, the picture before stays until the one that is due has come. */
  let last: Sided | null = null;

  $effect(() => {
    if (!canvas) return;
    const target = canvas;
    try {
      const made = new Renderer(target);
      renderer = made;
      onProcessor = made.isSoftware;
    } catch (thrown) {
      if (!(thrown instanceof NoGraphicsError)) throw thrown;
      noGraphics = thrown.message;
      renderer = new StillRenderer(target);
      onProcessor = true;
    }
    const observer = new ResizeObserver(([entry]) => {
      const box = entry!.devicePixelContentBoxSize?.[0];
      const scale = window.devicePixelRatio;
      viewing.screen = {
        width: Math.max(1, box?.inlineSize ?? Math.round(entry!.contentRect.width * scale)),
        height: Math.max(1, box?.blockSize ?? Math.round(entry!.contentRect.height * scale)),
      };
    });
    observer.observe(target);
    return () => observer.disconnect();
  });

  const sided = (one: SentPicture | null, pass: string): Sided | null =>
    one && { picture: one, side: sideOf(one, viewing.readAs(pass, one), settings, viewing.alphaOf(pass, one).straight) };
  const own = $derived(sided(picture, view.pass));
  const partnerHeld = $derived.by(() => {
    void cache.version;
    void viewing.pictures.partnerCache.version;
    return viewing.pictures.partnerHeld(column);
  });
  const partnerPass = $derived(viewing.pictures.partner?.kind === 'pass' ? viewing.pictures.partner.pass : view.pass);
  const partner = $derived(sided(partnerHeld && 'picture' in partnerHeld ? partnerHeld.picture : null, partnerPass));
  const partnerName = $derived(
    viewing.pictures.partner === null
      ? ''
      : viewing.pictures.partner.kind === 'pass'
        ? viewing.pictures.partner.pass
        : viewing.pictures.partner.kind === 'other'
          ? sayOther(viewing.pictures.partner.other)
          : String(view.model.frames[column + viewing.pictures.partner.offset] ?? ''),
  );
  const sizesDiffer = $derived(picture !== null && partner !== null && picture.info.displayWindow.join() !== partner.picture.info.displayWindow.join());

  $effect(() => {
    void revived;
    if (!renderer || !canvas || screen.width === 0) return;
    if (canvas.width !== screen.width || canvas.height !== screen.height) {
      canvas.width = screen.width;
      canvas.height = screen.height;
    }
    const shown = own ?? (player.playing && hasFile ? last : null);
    last = shown;
    const quickly = shown !== null && onProcessor && player.playing && canDrawQuickly(shown, partner, settings);
    isQuick = quickly;
    if (quickly && quickCanvas) (quick ??= new QuickCanvas(quickCanvas)).draw(shown!, partner, settings, screen);
    else drawWhatFits(renderer, shown, partner);
  });

  /** Draws, and where the card has not the memory for all lines of a picture, asks for fewer of them. */
  function drawWhatFits(...[on, one, other]: [Renderer | StillRenderer, Sided | null, Sided | null]) {
    try {
      drawAll(on, one, other, settings, screen);
    } catch (thrown) {
      if (!(thrown instanceof NoRoomError)) throw thrown;
      settings.reduce = untrack(() => settings.reduce) * 2;
    }
  }

  // By what they are, not by the page's data, which is another object whenever it is read anew.
  const shotId = $derived(shot.shot.id);
  const measuredAt = $derived(shot.assay?.at ?? null);
  // The noise that was measured is shown of frames that stand: while it plays the picture is what counts.
  $effect(() => {
    viewing.noise = null;
    if (!settings.noise || player.playing) return;
    if (measuredAt === null) {
      viewing.noise = { why: 'The noise of this shot has not been measured yet: the step Assay does.' };
      return;
    }
    return askTiles(shotId, view.pass, view.frame, (answer) => (viewing.noise = answer));
  });

  // Where the processor draws what plays, it does so before as well, unseen: the table of this look is ready and the
  // loops are quick when the first frame is due.
  let practised = 0;
  $effect(() => {
    if (!onProcessor || player.playing || !own || !quickCanvas || !canDrawQuickly(own, partner, settings)) return;
    const [one, other, target] = [own, partner, quickCanvas];
    let timer = setTimeout(function practise() {
      (quick ??= new QuickCanvas(target)).draw(one, other, settings, screen);
      if (++practised < 12) timer = setTimeout(practise, 20);
    }, 150);
    return () => clearTimeout(timer);
  });

  /** How much of a damaged picture is there. */
  function sayDamage({ info }: SentPicture): string {
    const lost = info.damage.reduce((sum, [, , width, height]) => sum + width * height, 0) / (info.full[0] * info.full[1]);
    return lost === 0 ? 'All of its picture is shown.' : `${Math.floor((1 - lost) * 100)} % of its picture is shown; the rest is outlined.`;
  }

  function listenToLoss(element: HTMLCanvasElement) {
    const lost = (event: Event) => event.preventDefault();
    const back = () => {
      if (renderer instanceof Renderer) renderer.forget();
      revived++;
    };
    element.addEventListener('webglcontextlost', lost);
    element.addEventListener('webglcontextrestored', back);
    return () => {
      element.removeEventListener('webglcontextlost', lost);
      element.removeEventListener('webglcontextrestored', back);
    };
  }

  let splitDrag = false;
  function dragSplit(event: PointerEvent) {
    if (!splitDrag) return;
    const box = canvas!.getBoundingClientRect();
    const share = (value: number, size: number) => Math.min(1, Math.max(0, value / size));
    settings.splitAt = [share(event.clientX - box.left, box.width), share(event.clientY - box.top, box.height)];
  }

  /** Svelte's own wheel listeners are passive; this one must keep the page from scrolling. */
  function listenToPointer(element: HTMLCanvasElement) {
    const pointer = new PicturePointer(element, viewing, view, () => picture);
    const leave = () => (viewing.pointed = null);
    const listeners = {
      pointerdown: (event: PointerEvent) => pointer.press(event),
      pointermove: (event: PointerEvent) => pointer.move(event),
      pointerup: () => pointer.release(),
      pointercancel: () => pointer.cancel(),
      pointerleave: leave,
      wheel: (event: WheelEvent) => pointer.turn(event),
    };
    for (const [name, listen] of Object.entries(listeners)) element.addEventListener(name, listen as EventListener, { passive: false });
    return () => {
      for (const [name, listen] of Object.entries(listeners)) element.removeEventListener(name, listen as EventListener);
    };
  }

  const zoomShown = $derived(picture ? zoomOf(picture, settings, screen)[1] : 1);
</script>

<div class="relative min-h-[200px] min-w-0 flex-1 overflow-hidden small:min-h-[55dvh] bg-[#1b1b1b] text-[#f2f2f2]">
  <canvas
    bind:this={canvas}
    class={['absolute inset-0 h-full w-full touch-none [image-rendering:pixelated]', isQuick && 'opacity-0']}
    aria-label="{shot.shot.name} {view.pass} frame {view.frame}{picture && hasAlpha(picture) ? ', with alpha' : ''}"
    {@attach listenToPointer}
    {@attach listenToLoss}
  ></canvas>
  <canvas bind:this={quickCanvas} class={['pointer-events-none absolute', !isQuick && 'hidden']} aria-hidden="true"></canvas>
  {#if noGraphics}
    <p class="absolute right-2 bottom-2 left-2 rounded bg-black/80 px-3 py-1.5 text-[13px]" role="status">
      {noGraphics} Pictures are drawn without it: colours play, but comparing and false colours show stills only.
    </p>
  {/if}
  {#if !picture && !(player.playing && hasFile && cache.count > 0)}
    <div class="pointer-events-none absolute inset-0 m-auto h-fit w-fit max-w-[460px] p-4 text-center">
      {#if viewing.pictures.problem}<p>{viewing.pictures.problem}</p>
      {:else if shot.count === null}<p>Nothing has been counted yet. Count first: the viewer shows what the count found.</p>
      {:else if hasFile && held === null}<p class="text-[#c8c8c8]">{cache.isAway ? 'The server does not answer; it is asked again.' : 'Reading …'}</p>
      {:else}
        <div class="mb-2 flex justify-center"><StateMark state={stateHere ?? 'later'} size={40} /></div>
        <p class="figure text-[22px]">{view.frame}</p>
        <p class="font-bold">{stateHere === null ? `${view.pass} does not order this frame` : stateTitles[stateHere]}</p>
        {#if held && 'why' in held}<p class="mt-1">{held.why}</p>{:else if damage}<p class="mt-1">{damage.message}</p>{/if}
      {/if}
    </div>
  {/if}
  {#if viewing.noise && 'why' in viewing.noise}
    <p class="pointer-events-none absolute right-2 bottom-2 max-w-[60%] rounded bg-black/80 px-3 py-1.5 text-[13px]" role="status">{viewing.noise.why}</p>
  {/if}
  {#if picture && settings.noise && !(partner && settings.compareAs === 'beside')}
    <NoiseOver {viewing} {picture} {screen} target={shot.brief.sampling?.noise ?? null} />
  {/if}
  {#if picture && (!partner || settings.compareAs !== 'beside')}<OverPicture {viewing} {picture} {screen} notes={noted} />{/if}
  {#if partner && settings.compareAs === 'split'}
    <!-- By keys the line is moved by the entries beside the picture. -->
    <div
      class="absolute h-6 w-6 -translate-x-1/2 -translate-y-1/2 cursor-move touch-none rounded-full border-2 border-[#1b1b1b] bg-[#7fe3b5]"
      style="left: {settings.splitAt[0] * 100}%; top: {settings.splitAt[1] * 100}%"
      aria-hidden="true"
      onpointerdown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        splitDrag = true;
      }}
      onpointermove={dragSplit}
      onpointerup={() => (splitDrag = false)}
      onpointercancel={() => (splitDrag = false)}
    ></div>
  {/if}
  {#if picture && !picture.info.problem && damage && !player.playing}
    <p class="pointer-events-none absolute bottom-2 left-2 flex max-w-[80%] items-center gap-2 rounded bg-black/80 px-3 py-1.5 text-[13px]" role="status">
      <StateMark state={stateHere} /><span><b>{findingCodes[damage.code].title}:</b> {damage.message}</span>
    </p>
  {/if}
  {#if picture?.info.problem}
    <p class="pointer-events-none absolute bottom-2 left-2 flex max-w-[80%] items-center gap-2 rounded bg-black/80 px-3 py-1.5 text-[13px]" role="status">
      <StateMark state="broken" /><span><b>Broken:</b> {picture.info.problem} {sayDamage(picture)}</span>
    </p>
  {/if}
  {#if viewing.pictures.partner}
    <p class="pointer-events-none absolute top-2 right-2 max-w-[60%] rounded bg-black/65 px-2 py-0.5 text-[12px]">
      {#if partner}against <span class="figure">{partnerName}</span>{settings.compareAs === 'difference' ? `, difference x ${settings.gain}` : ''}{sizesDiffer
          ? `, ${partner.picture.info.full.join(' x ')} with ${picture!.info.full.join(' x ')}, laid on one corner`
          : ''}
      {:else if partnerHeld && 'why' in partnerHeld}Nothing to compare with: {partnerHeld.why}
      {:else}reading what it is compared with …{/if}
    </p>
  {/if}
  {#if picture}
    <p class="pointer-events-none absolute top-2 left-2 rounded bg-black/65 px-2 py-0.5 text-[12px]">
      {picture.info.reduce > 1 ? `one pixel of ${picture.info.reduce} x ${picture.info.reduce}` : 'the file’s own pixels'}
      <span class="figure">{Math.round(zoomShown * 1000) / 10} %</span>{column === view.column ? '' : `, held from ${view.model.frames[column]}`}
    </p>
  {/if}
</div>
