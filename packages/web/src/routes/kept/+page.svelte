<script lang="ts">
  import Brand from '$lib/controls/Brand.svelte';
  import ThemeButton from '$lib/controls/ThemeButton.svelte';
  import { counted, sayBytes, formatMoment } from '$lib/text/format';

  let { data } = $props();

  const house = $derived(data.house);
  const days = (count: number) => counted(count, 'day');
</script>

<svelte:head><title>Kept on disk · Mint Tally</title></svelte:head>

<header class="flex h-[46px] shrink-0 items-center gap-5 border-b border-line bg-bar px-4">
  <Brand />
  <div>
    <a href="/" class="text-soft underline decoration-control underline-offset-3 hover:text-ink">{data.project.name}</a><span class="mx-1.5 text-soft">/</span>
    <h1 class="inline font-bold">Kept on disk</h1>
  </div>
  <span class="flex-1"></span>
  <ThemeButton />
</header>

<main class="min-h-0 flex-1 overflow-y-auto px-4.5 py-4">
  <p class="max-w-[70ch] text-soft">
    What Mint Tally itself keeps beside your frames, and for how long. Your own folders and packages are never tidied. The days are set under <code
      class="figure">keep</code
    >
    in <code class="figure">mint-tally.config.json</code>.
  </p>
  {#if !house}
    <p class="mt-4">Nothing has been looked through yet. The engine does it a minute after it has started, and then once an hour.</p>
  {:else}
    <table class="mt-4 w-full max-w-[900px] border-collapse text-left">
      <thead class="text-[13px] text-soft"
        ><tr class="border-b border-line"><th class="py-1.5 font-normal">What</th><th class="font-normal">Now</th><th class="font-normal">Goes</th></tr></thead
      >
      <tbody class="[&_td]:py-2 [&_td]:pr-4 [&_th]:py-2 [&_th]:pr-4">
        <tr class="border-b border-line">
          <th scope="row" class="font-bold">Small pictures of frames</th>
          <td class="figure">{counted(house.pictures.files, 'picture')}, {sayBytes(house.pictures.bytes)}</td>
          <td>{days(data.keep.pictures)} after no shot has the frame any more</td>
        </tr>
        <tr class="border-b border-line">
          <th scope="row" class="font-bold">Jobs, logs and previews that are over</th>
          <td class="figure">the newest of each stays</td>
          <td>after {days(data.keep.records)}</td>
        </tr>
        {#each house.setAside as { says, shot, files, bytes, goesAt }, i (i)}
          <tr class="border-b border-line">
            <th scope="row" class="font-bold"
              >Set aside by “{says}”{#if shot}
                of <a class="underline decoration-control underline-offset-3" href="/shots/{shot.id}/mend?do=kept">{shot.name}</a>{/if}</th
            >
            <td class="figure">{counted(files, 'file')}, {sayBytes(bytes)}</td>
            <td>on {formatMoment(goesAt)}; until then it can come back</td>
          </tr>
        {:else}
          <tr class="border-b border-line">
            <th scope="row" class="font-bold">Set aside by mends and merges</th>
            <td class="text-soft">nothing</td>
            <td>{days(data.keep.setAside)} after the mend</td>
          </tr>
        {/each}
      </tbody>
    </table>
    <p class="mt-4 text-[13px] text-soft">
      Looked through {formatMoment(house.at)}. Gone then: {counted(house.gone.pictures.files, 'picture')} ({sayBytes(house.gone.pictures.bytes)}), {counted(
        house.gone.setAside.files,
        'file',
      )} set aside ({sayBytes(house.gone.setAside.bytes)}), {counted(house.gone.unfinished, 'unfinished folder')}, {counted(house.records.jobs, 'job record')},
      {counted(house.records.lines, 'log line')}.
    </p>
  {/if}
</main>
