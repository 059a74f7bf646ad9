<script lang="ts">
  import { enhance } from '$app/forms';
  import { page } from '$app/state';
  import Coin from '$lib/coin/Coin.svelte';
  import Brand from '$lib/controls/Brand.svelte';
  import Problem from '$lib/controls/Problem.svelte';
  import ThemeButton from '$lib/controls/ThemeButton.svelte';
  import JobBar from '$lib/jobs/JobBar.svelte';
  import { useLive } from '$lib/jobs/live.svelte';
  import Ribbon from '$lib/ribbon/Ribbon.svelte';
  import { characterKeys } from '$lib/shot/character-keys.svelte';
  import { belongsTo, isCharacterKey, pressKey } from '$lib/shot/keys';
  import KeysDialog from '$lib/shot/KeysDialog.svelte';
  import { provideShotView } from '$lib/shot/shot-view.svelte';
  import StatusBar from '$lib/shot/StatusBar.svelte';
  import StepMark from '$lib/shot/StepMark.svelte';
  import { stepsOf } from '$lib/shot/steps';

  let { data, children } = $props();

  const live = useLive();
  const view = provideShotView(() => data.state.lanes);
  const current = $derived(page.url.pathname.split('/')[3]);
  // Where a screen shows a job at length, the header does not repeat it.
  const job = $derived(
    (current === 'tally' ? null : live.active(data.state.shot.id, 'count')) ??
      (current === 'assay' ? null : live.active(data.state.shot.id, 'assay')) ??
      (current === 'assay' && page.url.pathname.endsWith('/denoise') ? null : live.active(data.state.shot.id, 'denoise')) ??
      (current === 'mend' ? null : live.active(data.state.shot.id, 'mend')) ??
      (current === 'handoff' ? null : live.active(data.state.shot.id, 'package')) ??
      (current === 'batch' ? null : live.active(data.state.shot.id, 'render')),
  );
  let keysShown = $state(false);

  function onkeydown(event: KeyboardEvent) {
    if (keysShown || belongsTo(event.target, event.key) || (!characterKeys.on && isCharacterKey(event.key))) return;
    if (pressKey(view, event, () => (keysShown = true))) event.preventDefault();
  }
</script>

<svelte:window {onkeydown} />

<header class="flex h-[46px] shrink-0 items-center gap-5 border-b border-line bg-bar px-4 small:h-auto small:flex-wrap small:gap-y-0 small:pt-1">
  <Brand />
  <div class="min-w-0 truncate">
    <a href="/" class="text-soft underline decoration-control underline-offset-3 hover:text-ink">{data.project.name}</a><span class="mx-1.5 text-soft">/</span>
    <h1 class="inline font-bold">{data.state.shot.name}</h1>
    <span class="ml-1.5 text-soft" title="Version of the brief">brief v{data.state.briefVersion}</span>
  </div>
  <nav class="flex h-full small:order-last small:h-9 small:w-full small:overflow-x-auto" aria-label="Steps">
    {#each stepsOf(data.state) as step (step.path)}
      <a
        href="/shots/{data.state.shot.id}/{step.path}"
        aria-current={current === step.path ? 'page' : undefined}
        class={[
          'flex h-full items-center gap-2 border-y-[3px] border-t-transparent px-3.5 focus-visible:-outline-offset-2',
          current === step.path ? 'border-b-mint font-bold' : 'border-b-transparent text-soft hover:text-ink',
        ]}><StepMark mark={step.mark} />{step.title}<span class="sr-only">: {step.says}</span></a
      >
    {/each}
  </nav>
  <span class="flex-1"></span>
  {#if job}<JobBar {job} />{/if}
  <ThemeButton />
  <Coin gates={data.state.gates} stamped={data.state.handedOver} size={38} />
</header>

{#each data.state.unreadable as { id, why } (id)}
  <form method="POST" action="/shots/{data.state.shot.id}/handoff?/withdraw" class="flex items-center gap-3 border-b border-bad px-4.5 py-2" use:enhance>
    <div class="min-w-0 flex-1"><Problem message={why} remedy="It waives nothing." /></div>
    <input type="hidden" name="waiver" value={id} />
    <button type="submit" class="button button-small">Withdraw it</button>
  </form>
{/each}
<div class="flex min-h-0 flex-1 flex-col">{@render children()}</div>

{#if current !== 'tally'}
  <section class="shrink-0 border-t border-line pt-1.5 pr-4.5" aria-label="Ribbon">
    <Ribbon size="slim" shotId={data.state.shot.id} eyes={data.state.eyes} />
  </section>
{/if}
<StatusBar shotId={data.state.shot.id} isViewing={current === 'view'} brief={data.state.brief} onkeys={() => (keysShown = true)} />
<KeysDialog bind:open={keysShown} />
