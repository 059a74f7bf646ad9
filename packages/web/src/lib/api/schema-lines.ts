/** A line of a schema as people read it. */
export interface SchemaLine {
  readonly depth: number;
  readonly name: string;
  readonly type: string;
  readonly isRequired: boolean;
  readonly says: string;
}

interface Schema {
  readonly type?: string | readonly string[];
  readonly properties?: Readonly<Record<string, Schema>>;
  readonly required?: readonly string[];
  readonly items?: Schema;
  readonly prefixItems?: readonly Schema[];
  readonly anyOf?: readonly Schema[];
  readonly oneOf?: readonly Schema[];
  readonly additionalProperties?: Schema | boolean;
  readonly enum?: readonly unknown[];
  readonly const?: unknown;
  readonly description?: string;
  readonly default?: unknown;
}

/** Words of a list that are shown; of more it says so. */
const MOST_WORDS = 12;

/** A JSON schema line by line: what each field is called, what it holds, and what is said of it. */
export function linesOf(schema: object, depth = 0): SchemaLine[] {
  const { properties = {}, required = [], ...own } = schema as Schema;
  const variants = (own.oneOf ?? own.anyOf ?? []).filter(({ type }) => type !== 'null');
  return [
    ...Object.entries(properties).flatMap(([name, field]) => [
      { depth, name, type: typeOf(field), isRequired: required.includes(name) && field.default === undefined, says: saysOf(field) },
      ...linesOf(inside(field), depth + 1),
    ]),
    ...variants.flatMap((variant) => linesOf(variant, depth)),
  ];
}

/** What stands in a field: the thing itself, or what a list or a table is full of. */
function inside(field: Schema): Schema {
  if (field.items) return inside(field.items);
  if (typeof field.additionalProperties === 'object') return inside(field.additionalProperties);
  return field;
}

function saysOf({ description = '', default: usual }: Schema): string {
  return [description, ...(usual === undefined ? [] : [`usually ${JSON.stringify(usual)}`])].filter(Boolean).join('; ');
}

function typeOf(field: Schema): string {
  if (field.const !== undefined) return JSON.stringify(field.const);
  if (field.enum) {
    const words = field.enum.slice(0, MOST_WORDS).map((word) => JSON.stringify(word));
    return [...words, ...(field.enum.length > MOST_WORDS ? [`${field.enum.length - MOST_WORDS} more`] : [])].join(' | ');
  }
  if (field.prefixItems) return `[${field.prefixItems.map(typeOf).join(', ')}]`;
  if (field.items) return `list of ${typeOf(field.items)}`;
  const variants = field.oneOf ?? field.anyOf;
  if (variants) return [...new Set(variants.map(typeOf))].join(' | ');
  if (Array.isArray(field.type)) return field.type.join(' | ');
  if (field.type === 'object' && typeof field.additionalProperties === 'object') return `table of ${typeOf(field.additionalProperties)}`;
  return (field.type as string | undefined) ?? 'anything';
}
