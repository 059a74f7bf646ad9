/**
 * Writes ascending frame numbers in range notation, the shortest way a person would: runs as `a-b`, three
 * or more evenly spaced frames as `a-bxstep`, else single frames. No frame at all gives the empty string.
 */
export function writeRange(values: Int32Array): string {
  const items: string[] = [];
  let i = 0;
  while (i < values.length) {
    const step = i + 1 < values.length ? values[i + 1] - values[i] : 1;
    let end = i + 1;
    while (end < values.length && values[end] - values[end - 1] === step) end++;
    const length = end - i;
    if (step === 1 && length > 1) {
      items.push(`${values[i]}-${values[end - 1]}`);
      i = end;
    } else if (length > 2 && !beginsRun(values, end - 1)) {
      items.push(`${values[i]}-${values[end - 1]}x${step}`);
      i = end;
    } else if (length > 3) {
      // The last frame of the stepped stretch opens a run of its own: leave it to that run.
      items.push(`${values[i]}-${values[end - 2]}x${step}`);
      i = end - 1;
    } else {
      items.push(String(values[i]));
      i += 1;
    }
  }
  return items.join(',');
}

function beginsRun(values: Int32Array, index: number): boolean {
  return index + 1 < values.length && values[index + 1] - values[index] === 1;
}
