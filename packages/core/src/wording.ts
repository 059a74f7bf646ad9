/** `1 frame`, `12 frames`, `1,200 frames`. */
export function counted(count: number, noun: string, plural = `${noun}s`): string {
  return `${count.toLocaleString('en')} ${count === 1 ? noun : plural}`;
}

const UNITS = ['bytes', 'kB', 'MB', 'GB', 'TB'];

/** Bytes in decimal units, as disks are sold: 640 bytes, 1.9 MB, 240 GB. */
export function sayBytes(bytes: number): string {
  let value = bytes;
  let unit = 0;
  while (value >= 999.5 && unit < UNITS.length - 1) {
    value /= 1000;
    unit++;
  }
  return unit === 0 ? counted(bytes, 'byte') : `${value.toFixed(value < 9.95 ? 1 : 0)} ${UNITS[unit]}`;
}

/** A figure as people say it: two digits that tell something, and never in powers of ten. */
export function roughly(value: number): string {
  return Math.abs(value) >= 99.5 ? Math.round(value).toLocaleString('en') : value.toPrecision(2);
}
