/**
 * Channel names in the order in which people read them: R G B A, and whatever else by the
 * alphabet; layer by layer. EXR files keep theirs by the alphabet, which puts blue before red.
 */
export function inReadingOrder(names: readonly string[]): string[] {
  const layer = (name: string) => name.slice(0, name.lastIndexOf('.') + 1);
  const component = (name: string) => name.slice(name.lastIndexOf('.') + 1);
  const rank = (name: string) => {
    const place = component(name).length === 1 ? 'RGBA'.indexOf(component(name)) : -1;
    return place < 0 ? 4 : place;
  };
  return [...names].sort((a, b) => compareText(layer(a), layer(b)) || rank(a) - rank(b) || compareText(component(a), component(b)));
}

function compareText(a: string, b: string): number {
  return a < b ? -1 : a > b ? 1 : 0;
}

/** Whether a channel is an alpha, of a layer or of the picture: the one rule for it. */
export function isAlphaName(name: string): boolean {
  return /(^|\.)a(lpha)?$/i.test(name);
}
