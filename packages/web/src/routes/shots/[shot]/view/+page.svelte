<script lang="ts">
  import { workOutOrder } from '@mint-tally/core';
  import { useShotView } from '$lib/shot/shot-view.svelte';
  import Transport from '$lib/view/Transport.svelte';
  import { pressViewKey, viewKeyList } from '$lib/view/view-keys';
  import ViewBar from '$lib/view/ViewBar.svelte';
  import Viewer from '$lib/view/Viewer.svelte';
  import { Viewing } from '$lib/view/viewing.svelte';
  import ViewPanel from '$lib/view/ViewPanel.svelte';

  let { data } = $props();

  const view = useShotView();
  const order = $derived(workOutOrder(data.state.brief));
  const viewing = new Viewing(
    view,
    () => data.state.shot.id,
    () => order,
    typeof localStorage === 'undefined' ? null : localStorage,
  );
  const { player, cache, settings } = viewing;

  const picture = $derived.by(() => {
    void cache.version;
    const held = cache.get(viewing.shownFor(view.column));
    return held && 'picture' in held ? held.picture : null;
  });
  const orderedAlpha = $derived(order.passes.find((one) => one.pass.name === view.pass)?.pass.alpha);
  /** What is taken where nobody chose: the file's own word, the brief's, what its format is made for. */
  const said = $derived(picture?.info.alphaKind ?? (orderedAlpha === 'straight' || orderedAlpha === 'premultiplied' ? orderedAlpha : null));
  const usual = $derived(picture?.info.format === 'png' || picture?.info.format === 'tga' ? 'straight' : 'premultiplied');
  const isStraight = $derived((settings.alpha === 'as said' ? (said ?? usual) : settings.alpha) === 'straight');
  const saidAlpha = $derived(
    picture?.info.alphaKind ? `${said}, says the file` : said ? `${said}, says the brief` : `${usual}, as ${picture?.info.format ?? 'such'} files usually are`,
  );

  // What the pass shows, anew with each count.
  $effect(() => {
    void data.state.count?.at;
    void data.state.shot.id;
    const stop = new AbortController();
    void viewing.loadList(view.pass, stop.signal);
    return () => stop.abort();
  });
  // Channels of one pass are none of another's.
  $effect(() => {
    void view.pass;
    settings.only = null;
    settings.channel = 'all';
    settings.range = null;
  });
  $effect(() => viewing.connect(view.pass));
  $effect(() => cache.look(viewing.shownFor(view.column), player.direction, viewing.course));

  // One turn for every refresh of the screen, for as long as it plays.
  $effect(() => {
    if (!player.playing) return;
    let request = requestAnimationFrame(function turn() {
      const column = player.due();
      if (column !== null) {
        if (column !== view.column) view.goToColumn(column);
        const shown = viewing.shownFor(column);
        if (cache.has(shown) || viewing.entryOf(shown) === null) player.saw();
      }
      if (player.playing) request = requestAnimationFrame(turn);
    });
    return () => cancelAnimationFrame(request);
  });

  $effect(() => {
    view.screenKeys = { press: (event) => pressViewKey(viewing, view, event), list: viewKeyList };
    view.memory = { version: () => cache.version, has: (column) => cache.has(column) };
    return () => {
      view.screenKeys = null;
      view.memory = null;
      player.stop();
      cache.close();
    };
  });
</script>

<svelte:head><title>{data.state.shot.name}: view · Mint Tally</title></svelte:head>

<main class="flex min-h-0 flex-1 flex-col">
  <h2 class="sr-only">View</h2>
  <ViewBar {viewing} {picture} />
  <div class="flex min-h-0 flex-1 small:contents">
    <Viewer state={data.state} {viewing} straight={isStraight} />
    <ViewPanel {viewing} {picture} {saidAlpha} />
  </div>
  <Transport {viewing} />
</main>
