<!--
  The one dialog of the application. What it asks for stands in a form of its own, which only the main
  button sends: the button that leaves, Escape and a click beside it stand outside and can send nothing.
-->
<script lang="ts">
  import { Dialog } from 'bits-ui';
  import type { Snippet } from 'svelte';

  let {
    open = $bindable(false),
    title,
    text = '',
    width = 'narrow',
    tall = false,
    leave = 'Cancel',
    main = null,
    children,
  }: {
    open?: boolean;
    title: string;
    text?: string;
    width?: 'narrow' | 'middle' | 'wide';
    /** Whether it takes its whole height from the beginning, for what is scrolled inside. */
    tall?: boolean;
    /** What the button says that changes nothing. */
    leave?: string;
    /** The button that sends the form; it is never switched off because something is missing, so that sending can say what. */
    main?: { readonly label: string; readonly busy?: boolean; /** Whether it gives something up, or cannot be taken back. */ readonly grave?: boolean } | null;
    /** Given the id that its form must bear. */
    children: Snippet<[formId: string]>;
  } = $props();

  const id = $props.id();
  const formId = `${id}-form`;
  const widths = { narrow: 'w-[460px]', middle: 'w-[600px]', wide: 'w-[860px]' };
</script>

<Dialog.Root bind:open>
  <Dialog.Portal>
    <Dialog.Overlay class="fixed inset-0 z-40 bg-black/55" data-testid="beside-dialog" />
    <Dialog.Content
      class={[
        'fixed top-1/2 left-1/2 z-50 flex max-h-[calc(100dvh-24px)] max-w-[calc(100vw-24px)] -translate-x-1/2 -translate-y-1/2 flex-col border border-line bg-raised p-5 shadow-xl',
        widths[width],
        tall && 'h-[560px]',
      ].join(' ')}
    >
      <Dialog.Title class="text-[17px] font-bold">{title}</Dialog.Title>
      {#if text}<Dialog.Description class="mt-1 text-soft">{text}</Dialog.Description>{/if}
      <div class="-mx-1 mt-4 flex min-h-0 flex-1 flex-col overflow-y-auto px-1">{@render children(formId)}</div>
      <div class="mt-4 flex shrink-0 justify-end gap-2">
        <button type="button" class="button" onclick={() => (open = false)}>{leave}</button>
        {#if main}<button type="submit" form={formId} class={['button', main.grave ? 'button-grave' : 'button-main']} disabled={main.busy}>{main.label}</button
          >{/if}
      </div>
    </Dialog.Content>
  </Dialog.Portal>
</Dialog.Root>
