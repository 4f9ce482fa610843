import { tableText } from '../units/index.js';
import { EDIT_KINDS } from './registry.js';

/** What a JSON schema says of a field, as far as it is put in words. */
type FieldSchema = {
  readonly enum?: readonly (string | number | null)[];
  readonly const?: string | number | boolean;
  readonly properties?: { readonly [name: string]: FieldSchema };
  readonly required?: readonly string[];
  readonly items?: FieldSchema;
  readonly oneOf?: readonly FieldSchema[];
};

/** The words that a field can be, or the fields that it has; nothing where it is a plain value. */
function within({ enum: words, properties, items }: FieldSchema): readonly string[] {
  if (words) return words.map(String);
  if (properties) return Object.keys(properties);
  return items ? within(items) : [];
}

function fieldInWords(name: string, schema: FieldSchema, isNeeded: boolean): string {
  const inner = within(schema);
  return `\`${name}\`${isNeeded ? '' : '?'}${inner.length ? ` (${inner.map((one) => `\`${one}\``).join(', ')})` : ''}`;
}

/** The fields of a kind: those it needs, then, with a `?`, those it may leave out. */
function fieldsInWords(schema: FieldSchema): string {
  if (schema.oneOf) {
    // One and the same fields, of which the first names which of the forms it is.
    const [first] = schema.oneOf;
    const [name] = Object.entries(first!.properties!).find(([field, { const: word }]) => word && field !== 'kind')!;
    const words = schema.oneOf.map((one) => `\`${String(one.properties![name]!.const)}\``).join(', ');
    const others = Object.keys(first!.properties!).filter((field) => field !== 'kind' && field !== name);
    return [`\`${name}\` (${words})`, ...others.map((field) => `\`${field}\``)].join(', ');
  }
  const needed = new Set(schema.required);
  return Object.entries(schema.properties!)
    .filter(([name]) => name !== 'kind')
    .map(([name, field]) => fieldInWords(name, field, needed.has(name)))
    .join(', ');
}

/** Every kind of edit with its fields and what it does, as the docs and the command line list them. */
export const editTable = (): readonly { readonly kind: string; readonly fields: string; readonly does: string }[] =>
  EDIT_KINDS.map(({ kind, schema, does }) => ({ kind, fields: fieldsInWords(schema as FieldSchema), does }));

/** The table of docs/edits.md, as Markdown. */
export function editTableText(): string {
  const rows = editTable().map(({ kind, fields, does }) => [`\`${kind}\``, fields, does]);
  return tableText([['kind', 'fields', 'what it does'], ...rows]);
}
