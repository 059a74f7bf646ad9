/** The name of something that is not whole yet; it lies beside where it will stand. */
export const unfinishedName = (name: string, aside: string) => `.${name}.unfinished-${aside}`;

/** The job whose unfinished work bears this name; null for any other name. */
export function unfinishedOf(name: string): number | null {
  const [, job] = /^\..+\.unfinished-(\d{1,15})(?:-[0-9a-f]+)?$/.exec(name) ?? [];
  return job === undefined ? null : Number(job);
}
