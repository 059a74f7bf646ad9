import { browser } from '$app/environment';

const KEY = 'mint-tally-character-keys';

/** Whether keys of one character do something; remembered by the browser. */
export const characterKeys = $state({ on: browser ? localStorage.getItem(KEY) !== 'off' : true });

export function rememberCharacterKeys(): void {
  localStorage.setItem(KEY, characterKeys.on ? 'on' : 'off');
}
