<script lang="ts">
  import Problem from '$lib/controls/Problem.svelte';
  import Docket from '$lib/docket/Docket.svelte';
  import { useLive } from '$lib/jobs/live.svelte';
  import Ribbon from '$lib/ribbon/Ribbon.svelte';
  import Counters from '$lib/shot/Counters.svelte';
  import LowerPanel from '$lib/tally/LowerPanel.svelte';

  let { data } = $props();

  const live = useLive();
  const last = $derived(live.job(data.state.shot.id, 'count'));
</script>

<svelte:head><title>{data.state.shot.name}: tally · Mint Tally</title></svelte:head>

<div class="flex min-h-0 flex-1 small:flex-col">
  <main class="flex min-w-0 flex-1 flex-col">
    <Counters state={data.state} />
    {#if last?.state === 'failed' && last.error}<Problem message="The last count failed: {last.error.message}" remedy={last.error.remedy} />
    {:else if last?.state === 'cancelled'}<p class="border-b border-line px-4.5 py-1.5 text-[13px] text-soft">
        The last count was stopped; the next one goes on where it was.
      </p>{/if}
    <section class="max-h-[58%] shrink-0 overflow-x-hidden overflow-y-auto pt-2 pr-4.5 small:max-h-none" aria-label="Ribbon">
      <Ribbon
        size="full"
        shotId={data.state.shot.id}
        eyes={data.state.eyes}
        counted={data.state.count ? `${data.state.count.at} ${data.state.assay?.at ?? ''}` : ''}
      />
    </section>
    <LowerPanel state={data.state} />
  </main>
  <Docket state={data.state} />
</div>
