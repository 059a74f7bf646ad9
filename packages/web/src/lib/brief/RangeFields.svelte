<!-- The frame range said as start and duration: whichever is typed, the range and the others follow. Cells of the form's grid. -->
<script lang="ts">
  import TextField from '$lib/controls/TextField.svelte';
  import type { BriefDraft } from './draft';
  import { fieldsOfRange, hasDropFrame, rangeAfter, sayLength, type DurationFields } from './duration-fields';

  let { draft = $bindable() }: { draft: BriefDraft } = $props();

  const said = $derived(fieldsOfRange(draft.range, draft.fps, draft.dropFrame));
  const spoken = $derived(sayLength(draft.range, draft.fps));
  /** What is being typed stays as it is typed until the field is left. */
  let typing = $state<{ field: keyof DurationFields; text: string } | null>(null);

  const valueOf = (field: keyof DurationFields) => (typing?.field === field ? typing.text : said[field]);

  function type(field: keyof DurationFields, text: string) {
    typing = { field, text };
    // A timecode with a semicolon is a drop-frame one (SMPTE ST 12-1).
    if (field === 'timecode' && text.includes(';') && hasDropFrame(draft.fps)) draft.dropFrame = true;
    const { range } = rangeAfter(draft.range, draft.fps, field, text);
    if (range !== null) draft.range = range;
  }

  const fields: readonly (readonly [field: keyof DurationFields, label: string])[] = [
    ['start', 'Start'],
    ['frames', 'Frames'],
    ['seconds', 'Seconds'],
    ['timecode', 'Timecode'],
  ];
  const unread = $derived(typing === null ? null : { field: typing.field, problem: rangeAfter(draft.range, draft.fps, typing.field, typing.text).problem });
</script>

{#each fields as [field, label] (field)}
  <div class={field === 'timecode' ? 'col-span-3 @3xl:col-span-3' : 'col-span-1 @3xl:col-span-2'}>
    <TextField
      {label}
      figure
      bind:value={() => valueOf(field), (text) => type(field, text)}
      placeholder={said.start === '' ? '' : '–'}
      title={field === 'start' ? 'The first frame' : 'A length: 10 s, 240 or 00:00:10:00, whichever field it is typed into'}
      problem={unread?.field === field ? (unread.problem ?? '') : ''}
      onblur={() => (typing = null)}
    />
  </div>
{/each}
<p class="col-span-6 self-end pb-2 text-[13px] text-soft @3xl:col-span-3">{spoken}</p>
