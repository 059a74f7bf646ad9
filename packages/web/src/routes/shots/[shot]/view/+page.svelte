<script lang="ts">
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { workOutOrder } from '@mint-tally/core';
  import { untrack } from 'svelte';
  import { groupFindings } from '$lib/docket/groups';
  import { renewPage } from '$lib/jobs/live.svelte';
  import { person } from '$lib/shot/person.svelte';
  import { useShotView } from '$lib/shot/shot-view.svelte';
  import EyesBar from '$lib/view/EyesBar.svelte';
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
    { id: () => data.state.shot.id, order: () => order, eyes: () => data.state.eyes, person: () => person.name, renew: () => void renewPage() },
    typeof localStorage === 'undefined' ? null : localStorage,
  );
  const { player, settings, pictures } = viewing;
  const { cache } = pictures;
  /** The address whose wish was followed: once it is shown, what is compared is the person's to choose. */
  let opened = '';
  $effect(() => {
    const { opening } = data;
    const address = page.url.href;
    if (!opening || opened === address) return;
    opened = address;
    untrack(() => viewing.open(opening));
  });
  /** Milliseconds after which somebody has seen what the playhead stands on. */
  const RESTS = 400;

  const picture = $derived.by(() => {
    void cache.version;
    const held = cache.get(viewing.pictures.shownFor(view.column));
    return held && 'picture' in held ? held.picture : null;
  });
  // What the pass shows, anew with everything that is counted: frames that arrive appear by themselves.
  $effect(() => {
    void data.state.stateKey;
    void data.state.shot.id;
    const stop = new AbortController();
    void viewing.pictures.loadList(view.pass, stop.signal);
    return () => stop.abort();
  });
  // Channels of one pass are none of another's.
  $effect(() => {
    void view.pass;
    settings.only = null;
    settings.channel = 'all';
    settings.range = null;
  });
  const soundFile = $derived(data.state.brief.sound?.file);
  $effect(() => {
    if (soundFile === undefined) return viewing.sound.close();
    const stop = new AbortController();
    void viewing.sound.load(`/shots/${data.state.shot.id}/sound`, stop.signal);
    return () => stop.abort();
  });
  const partnerPass = $derived(viewing.pictures.partner?.kind === 'pass' ? viewing.pictures.partner.pass : null);
  const partnerFolder = $derived(viewing.pictures.partner?.kind === 'other' ? viewing.pictures.partner.other : null);
  $effect(() => {
    void data.state.stateKey;
    const stop = new AbortController();
    if (partnerPass !== null) void viewing.pictures.loadList(partnerPass, stop.signal, 'partnerList');
    else if (partnerFolder !== null) void viewing.pictures.loadOther(partnerFolder, stop.signal);
    return () => stop.abort();
  });
  $effect(() => {
    view.eyes = viewing.watching.eyes;
  });
  $effect(() => viewing.pictures.connect(view.pass));
  $effect(() => viewing.look(viewing.pictures.shownFor(view.column)));

  function press(event: KeyboardEvent): boolean {
    if (event.key.toLowerCase() === 'u' && !event.ctrlKey && !event.metaKey && !event.altKey) {
      void goto(`/shots/${data.state.shot.id}/view/sheet`);
      return true;
    }
    return pressViewKey(viewing, event);
  }

  // One turn for every refresh of the screen, for as long as it plays.
  $effect(() => {
    if (!player.playing) return;
    let request = requestAnimationFrame(function turn() {
      const column = player.due();
      if (column !== null) {
        if (column !== view.column) view.goToColumn(column);
        if (viewing.pictures.isReady(viewing.pictures.shownFor(column)) && player.saw()) viewing.watching.note(column);
      }
      if (player.playing) request = requestAnimationFrame(turn);
      else viewing.sound.stop();
    });
    return () => cancelAnimationFrame(request);
  });

  // The keys travel from finding to finding here as they do beside the docket.
  $effect(() => {
    const entries = groupFindings(data.state.findings.filter((finding) => !finding.frames.isEmpty)).flatMap((group) => group.entries);
    view.docket = {
      keys: entries.map(({ key }) => key),
      choose(key) {
        const [finding] = entries.find((entry) => entry.key === key)!.findings;
        viewing.stop();
        view.chosen = key;
        if (finding.pass) view.choosePass(finding.pass);
        view.goTo(finding.frames.first!);
      },
    };
    return () => (view.docket = null);
  });

  // A frame that the playhead rests on has been seen, standing still.
  $effect(() => {
    const { column } = view;
    if (player.playing || !picture) return;
    const timer = setTimeout(() => viewing.watching.note(column), RESTS);
    return () => clearTimeout(timer);
  });

  $effect(() => {
    view.screenKeys = { press, list: viewKeyList };
    view.memory = { version: () => cache.version, has: (column) => cache.has(column) };
    return () => {
      view.eyes = null;
      view.screenKeys = null;
      view.memory = null;
      viewing.close();
    };
  });
</script>

<svelte:head><title>{data.state.shot.name}: view · Mint Tally</title></svelte:head>

<svelte:window onpagehide={() => viewing.watching.sights.sendAway()} />

<main class="flex min-h-0 flex-1 flex-col">
  <h2 class="sr-only">View</h2>
  <ViewBar shotId={data.state.shot.id} {viewing} {picture} />
  <div class="flex min-h-0 flex-1 small:contents">
    <Viewer state={data.state} {viewing} />
    <ViewPanel state={data.state} roots={data.roots} {viewing} {picture} />
  </div>
  <EyesBar state={data.state} {viewing} />
  <Transport {viewing} />
</main>
