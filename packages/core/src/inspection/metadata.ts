type Metadata = Readonly<Record<string, string | number>>;

/** What is kept of a file's metadata: enough for every note that a renderer leaves, and no more than a database row should hold. */
const LONGEST_VALUE = 1000;
const LONGEST_NAME = 200;
const MOST_ENTRIES = 300;
const MOST_CHARACTERS = 64_000;

/** Metadata as it is kept: long values cut, with their length; entries beyond the bounds left out, which is said. */
export function boundMetadata(metadata: Metadata): Metadata {
  const entries = Object.entries(metadata);
  const isSmall = entries.length <= MOST_ENTRIES && entries.every(([name, value]) => name.length + String(value).length < LONGEST_NAME);
  if (isSmall) return metadata;
  const kept: Record<string, string | number> = {};
  let characters = 0;
  let left = 0;
  for (const [i, [name, value]] of entries.entries()) {
    const text = typeof value === 'string' && value.length > LONGEST_VALUE ? `${value.slice(0, LONGEST_VALUE)} … (${value.length} characters)` : value;
    characters += name.length + String(text).length;
    if (i >= MOST_ENTRIES || characters > MOST_CHARACTERS || name.length > LONGEST_NAME) left++;
    else kept[name] = text;
  }
  return left === 0 ? kept : { ...kept, '(left out)': `${left} more entries` };
}
