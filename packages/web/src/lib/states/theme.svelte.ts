import { createSubscriber } from 'svelte/reactivity';

/** Tells of each change of the theme; canvases must be drawn anew then, which CSS cannot do for them. */
const subscribe = createSubscriber((update) => {
  const observer = new MutationObserver(update);
  observer.observe(document.documentElement, { attributeFilter: ['data-theme'] });
  return () => observer.disconnect();
});

/** The theme in force. Read inside an effect, it runs the effect again when the theme changes. */
export function currentTheme(): string {
  subscribe();
  return document.documentElement.dataset.theme ?? 'dark';
}
