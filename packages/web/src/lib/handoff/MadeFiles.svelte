<!-- What was made of the shot to be looked at: review movies and contact sheets. -->
<script lang="ts">
  import { counted, formatMoment, sayBytes } from '$lib/text/format';
  import type { MovieView, SheetView } from './handoff-view';

  let { shotId, movies, sheets }: { shotId: number; movies: readonly MovieView[]; sheets: readonly SheetView[] } = $props();
</script>

{#snippet place({ file, actor, at }: { file: string; actor: string; at: string })}
  <td class="py-1.5 pr-3"
    ><div class="figure [overflow-wrap:anywhere]">{file}</div>
    <div class="text-[13px] text-soft">{actor}, {formatMoment(at)}</div></td
  >
{/snippet}

{#snippet links(one: { id: number; isThere: boolean }, kind: 'movie' | 'sheet', verb: string)}
  <td class="w-[150px] py-1.5 text-right whitespace-nowrap">
    {#if one.isThere}
      <a class="button button-small" href="/shots/{shotId}/handoff/{kind}/{one.id}" target="_blank" rel="noopener">{verb}</a>
      <a class="button button-small" href="/shots/{shotId}/handoff/{kind}/{one.id}?download" download>Save</a>
    {:else}<span class="text-[13px] text-soft">not there any more</span>{/if}
  </td>
{/snippet}

<section aria-label="Movies" class="mt-6">
  <h3 class="font-bold">Review movies</h3>
  {#if movies.length === 0}<p class="mt-1 text-[13px] text-soft">None yet.</p>{:else}
    <table class="mt-1 w-full border-collapse text-left text-[14px]">
      <tbody>
        {#each movies as movie (movie.id)}
          {@const { made } = movie}
          <tr class="border-t border-line align-top">
            {@render place(movie)}
            <td class="py-1.5 pr-3"
              >{movie.pass}, {counted(made.frames, 'frame')} at {made.fps}, <span class="figure">{made.seconds.toFixed(2)}</span> s,
              <span class="figure">{made.width} x {made.height}</span>, {sayBytes(made.bytes)}
              <div class={['text-[13px]', made.slates === '' ? 'text-soft' : 'font-bold']}>
                {made.slates === '' ? 'every frame is there; read back and right' : `slates stand for ${made.slates}`}
              </div></td
            >
            {@render links(movie, 'movie', 'Watch')}
          </tr>
        {/each}
      </tbody>
    </table>
  {/if}
</section>

<section aria-label="Contact sheets" class="mt-6">
  <h3 class="font-bold">Contact sheets</h3>
  {#if sheets.length === 0}<p class="mt-1 text-[13px] text-soft">None yet.</p>{:else}
    <table class="mt-1 w-full border-collapse text-left text-[14px]">
      <tbody>
        {#each sheets as sheet (sheet.id)}
          {@const { made, wish } = sheet}
          <tr class="border-t border-line align-top">
            {@render place(sheet)}
            <td class="py-1.5 pr-3"
              >{wish.passes.join(', ')}, {counted(made.pictures, 'picture')}{made.pages > 1 ? ` on ${made.pages} pages` : ''}, {sayBytes(made.bytes)}
              <div class={['text-[13px]', made.slates.length === 0 ? 'text-soft' : 'font-bold']}>
                {made.slates.length === 0
                  ? 'every frame that it shows is there'
                  : `slates stand for ${made.slates.map(({ pass, frames }) => `${pass} ${frames}`).join(', ')}`}
              </div></td
            >
            {@render links(sheet, 'sheet', 'Open')}
          </tr>
        {/each}
      </tbody>
    </table>
  {/if}
</section>
