<!-- The frame range, and the same as start and duration: whichever is typed, the others follow. -->
<script lang="ts">
  import TextField from '$lib/controls/TextField.svelte';
  import type { BriefDraft } from './draft';
  import { fieldsOfRange, hasDropFrame, rangeAfter, type DurationFields } from './duration-fields';
  import type { FieldProblems } from './field-problems.svelte';

  let { draft = $bindable(), problems }: { draft: BriefDraft; problems: FieldProblems } = $props();

  const said = $derived(fieldsOfRange(draft.range, draft.fps, draft.dropFrame));
  /** What is being typed stays as it is typed until the field is left. */
  let typing = $state<{ field: keyof DurationFields; text: string } | null>(null);

  const valueOf = (field: keyof DurationFields) => (typing?.field === field ? typing.text : said[field]);

  function type(field: keyof DurationFields, text: string) {
    typing = { field, text };
    const range = rangeAfter(draft.range, draft.fps, field, text);
    if (range !== null) draft.range = range;
  }

  const fields: readonly (readonly [field: keyof DurationFields, label: string])[] = [
    ['start', 'Start'],
    ['frames', 'Frames'],
    ['seconds', 'Seconds'],
    ['timecode', 'Timecode'],
  ];
  const unread = $derived(typing !== null && rangeAfter(draft.range, draft.fps, typing.field, typing.text) === null ? typing.field : null);
</script>

<div class="grid grid-cols-[minmax(0,1fr)_86px_86px_92px_118px_150px] gap-x-3">
  <TextField label="Frame range" figure bind:value={draft.range} placeholder="1001-1096 or 1-100x2,120" {...problems.entry('range')} />
  {#each fields as [field, label] (field)}
    <TextField
      {label}
      figure
      bind:value={() => valueOf(field), (text) => type(field, text)}
      placeholder={said.start === '' ? '' : '–'}
      problem={unread === field ? 'Not readable yet' : ''}
      onblur={() => (typing = null)}
    />
  {/each}
  <TextField label="Frame rate" figure bind:value={draft.fps} list="frame-rates" placeholder="not checked" {...problems.entry('fps')}>
    {#snippet hint()}
      {#if hasDropFrame(draft.fps)}
        <label class="flex items-center gap-1.5 text-[13px]" title="Timecodes leave labels out so that they keep up with the clock (SMPTE ST 12-1)"
          ><input type="checkbox" class="accent-(--mint)" bind:checked={draft.dropFrame} />drop</label
        >
      {/if}
    {/snippet}
  </TextField>
</div>
<datalist id="frame-rates">
  {#each ['23.976', '24', '25', '29.97', '30', '48', '50', '59.94', '60'] as rate (rate)}<option value={rate}></option>{/each}
</datalist>
