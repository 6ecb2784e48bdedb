import { type Field, keyFromLabel, storableText } from '../fields/field.ts';

const MOST = 60;
/** Longest value, in UTF-16 code units. */
const MOST_VALUE = 20_000;
const LINE = /^(?:[*•·-][ \t]{0,8})?\*{0,4}([\p{L}][\p{L}\p{N} ()/'&._?-]{0,48}?)\*{0,4}[ \t]{0,8}[:：](.*)$/u;
/** Not labels: how addresses, quoted mail heads and greetings begin. */
const NO_LABEL = /^(https?|mailto|tel|ftp|on|dear|hi|hello|wrote|ps|p\.s\.)$/i;

/**
 * The "Label: value" lines of a notification mail as fields: "First name: Nadia". A label with nothing behind it takes the lines
 * below, up to an empty one or the next label. Quoted lines (">") are left alone; the first of each label counts.
 */
export function labelledLines(text: string): Field[] {
  const found = new Map<string, Field>();
  let open: Field | null = null;
  for (const line of text.split(/\r\n|\r|\n/)) {
    const match = line.startsWith('>') ? null : LINE.exec(line.trimStart());
    const label = match?.[1]?.trim() ?? '';
    const key = keyFromLabel(label);
    if (match && key !== '' && !NO_LABEL.test(label) && !/^\/\//.test(match[2]!)) {
      open = null;
      if (found.has(key) || found.size >= MOST) continue;
      const field = { key, label: storableText(label), value: storableText(match[2]!.trim()) };
      found.set(key, field);
      if (field.value === '') open = field;
    } else if (line.trim() === '' || line.startsWith('>')) {
      if (open && open.value !== '') open = null;
    } else if (open && open.value.length < MOST_VALUE)
      open.value = storableText(`${open.value}\n${line.trim()}`.trim()).slice(0, MOST_VALUE);
  }
  return [...found.values()];
}
