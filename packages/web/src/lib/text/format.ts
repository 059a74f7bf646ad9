/** Numbers, sizes and times as people read them. */

export function formatCount(value: number): string {
  return value.toLocaleString('en');
}

export { counted, sayBytes } from '@mint-tally/core';

/** A length of time: 40 s, 12 min, 1 h 12 min, 3 d. */
export function formatSeconds(seconds: number): string {
  const whole = Math.max(0, Math.round(seconds));
  if (whole < 100) return `${whole} s`;
  const minutes = Math.round(whole / 60);
  if (minutes < 60) return `${minutes} min`;
  const hours = Math.floor(minutes / 60);
  if (hours < 48) return minutes % 60 === 0 ? `${hours} h` : `${hours} h ${minutes % 60} min`;
  return `${Math.round(hours / 24)} d`;
}

/** How long ago a moment was. */
export function formatAgo(iso: string, now: number): string {
  const seconds = (now - Date.parse(iso)) / 1000;
  return seconds < 3 ? 'just now' : `${formatSeconds(seconds)} ago`;
}

/** A moment in the reader's own time: 24 Nov 2026, 23:41. A file may claim a time that no calendar has; then its year is said. */
export function formatMoment(moment: Date | string | number): string {
  const date = new Date(moment);
  if (Number.isNaN(date.getTime())) return typeof moment === 'number' ? `about the year ${yearOf(moment)}` : 'at no known time';
  return new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', year: 'numeric', hour: '2-digit', minute: '2-digit' }).format(date);
}

/** The same for machines: ISO 8601, or the milliseconds since 1970 where no calendar has the time. */
export function isoMoment(milliseconds: number): string {
  const date = new Date(milliseconds);
  return Number.isNaN(date.getTime()) ? String(milliseconds) : date.toISOString();
}

function yearOf(milliseconds: number): string {
  return Math.round(1970 + milliseconds / (365.2425 * 86_400_000)).toLocaleString('en');
}
