/** One line of an answer as people point at it. */
export interface AnswerLine {
  depth: number;
  /** Its name or place; empty for the whole. */
  name: string;
  /** As it stands, for what is neither list nor object; else how many it holds. */
  value: string;
  plain: boolean;
  /** JSONPath (RFC 9535). */
  path: string;
}

/** Most lines shown. */
const MOST = 300;
const step = (name: string) => (/^[A-Za-z_]\w*$/.test(name) ? `.${name}` : `['${name.replace(/[\\']/g, '\\$&')}']`);

/** An answer line by line, each with the path that leads to it. Of a list of objects the first is shown: the others are like it. */
export function answerLines(value: unknown): AnswerLine[] {
  const lines: AnswerLine[] = [];
  const walk = (one: unknown, name: string, path: string, depth: number) => {
    if (lines.length >= MOST) return;
    if (one === null || typeof one !== 'object') {
      lines.push({ depth, name, path, value: one === null ? 'nothing' : String(one), plain: true });
      return;
    }
    const inside = Array.isArray(one)
      ? one.map((item, i): [string, unknown] => [String(i), item])
      : Object.entries(one);
    lines.push({ depth, name, path, value: Array.isArray(one) ? `${inside.length} in a list` : '', plain: false });
    const shown =
      Array.isArray(one) && inside.length > 1 && typeof inside[0]![1] === 'object' ? inside.slice(0, 1) : inside;
    for (const [key, item] of shown) walk(item, key, path + (Array.isArray(one) ? `[${key}]` : step(key)), depth + 1);
  };
  walk(value, '', '$', 0);
  return lines;
}
