<!-- A sound track beside the frames: its length is read from the file, not believed. -->
<script lang="ts">
  import TextField from '$lib/controls/TextField.svelte';
  import { soundSchema } from './sound';
  import type { BriefDraft } from './draft';

  let { draft = $bindable(), place, onchange }: { draft: BriefDraft; place: { root: string; path: string }; onchange: () => void } = $props();

  let file = $state('');
  let problem = $state('');
  let reading = $state(false);

  async function read() {
    reading = true;
    problem = '';
    try {
      const response = await fetch(`/api/sound?${new URLSearchParams({ root: place.root, path: place.path, file: file.trim() }).toString()}`);
      const body: unknown = await response.json();
      if (response.ok) {
        draft.sound = soundSchema.parse(body);
        onchange();
      } else problem = `${(body as { message: string }).message} ${(body as { remedy?: string }).remedy ?? ''}`;
    } finally {
      reading = false;
    }
  }
</script>

{#if draft.sound}
  <div>
    <div class="mb-1 text-soft">Sound</div>
    <div class="flex items-center gap-2 py-[5px]">
      <span class="figure truncate text-[13px]" title={draft.sound.file}>{draft.sound.file}, {(draft.sound.samples / draft.sound.sampleRate).toFixed(3)} s</span
      >
      <button
        type="button"
        class="button button-small"
        onclick={() => {
          draft.sound = null;
          onchange();
        }}>Remove</button
      >
    </div>
  </div>
{:else}
  <div class="flex items-start gap-2">
    <div class="min-w-0 flex-1">
      <TextField
        label="Sound (WAV beside the frames)"
        figure
        bind:value={file}
        placeholder="none, or such as sound/orr_010.wav"
        problem={file.trim() === '' ? '' : problem}
        field="sound"
      />
    </div>
    <button type="button" class="button mt-[25px]" disabled={file.trim() === '' || reading} onclick={read}>Read length</button>
  </div>
{/if}
