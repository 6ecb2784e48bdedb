/** One thing a source told about a lead: `key` addresses it in templates, `label` is what the coordinator reads. */
export interface Field {
  key: string;
  label: string;
  value: string;
  /** A list, like the lines of an order: one record per row. `value` says it in words. */
  rows?: Record<string, string>[];
  /** A field they have on one list, and no answer of theirs: its key is "list id.key". */
  of?: 'list';
}

export interface FieldLimits {
  /** Most fields kept from one arrival. */
  count: number;
  /** Deepest nesting followed. */
  depth: number;
  /** Most UTF-16 code units of one value. */
  length: number;
}

export const FIELD_LIMITS: FieldLimits = { count: 300, depth: 12, length: 20_000 };

/**
 * Text as PostgreSQL and people can take it: no NUL (U+0000 cannot be stored as text) and no lone surrogates; both become
 * U+FFFD so that it shows that something stood there. The raw body is kept beside it, byte for byte.
 */
export const storableText = (text: string): string => text.toWellFormed().replaceAll('\0', '\uFFFD');

/** The key under which something called `label` is kept: "Which day suits?" gives "which_day_suits". Empty when nothing of it is left. */
export const keyFromLabel = (label: string, most = 60): string =>
  label
    .normalize('NFC')
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]+/gu, '_')
    .replace(/^_|_$/g, '')
    .slice(0, most);

/** "utm_source" or "emailAddress" as a person would write it: "Utm source", "Email address". */
export function labelFromKey(key: string): string {
  const last = key.split('.').filter(Boolean);
  const words = last
    .join(' ')
    .replace(/([\p{Ll}\p{N}])(\p{Lu})/gu, '$1 $2')
    .replace(/[_\-[\]]+/g, ' ')
    .replace(/\s+/g, ' ')
    .trim()
    .toLowerCase();
  return words.charAt(0).toUpperCase() + words.slice(1);
}
