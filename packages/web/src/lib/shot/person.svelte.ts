import { browser } from '$app/environment';

const KEY = 'mint-tally-person';

/** The name of whoever sits here, remembered by the browser and shared by all forms that ask for it. */
export const person = $state({ name: browser ? (localStorage.getItem(KEY) ?? '') : '' });

export function rememberPerson(): void {
  localStorage.setItem(KEY, person.name);
}
