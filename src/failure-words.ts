/** SQLSTATE (ISO 9075): five characters, as PostgreSQL's errors carry them. */
const SQLSTATE = /^[0-9A-Z]{5}$/;

/**
 * An error in words for the log. One of the database is told by its code and by what it is about: its message may quote a row, and the object mapper
 * puts the whole statement with its values into it. Nothing of a person is written to the log by that.
 */
export function failureWords(error: unknown): string {
  const { code, table, constraint, message, stack } = (error ?? {}) as Record<string, string | undefined>;
  if (typeof code !== 'string' || !SQLSTATE.test(code)) return message ?? String(error);
  const about = [table && `table ${table}`, constraint && `constraint ${constraint}`].filter(Boolean).join(', ');
  const where = (stack ?? '')
    .split('\n')
    .find((line) => line.includes('/src/') || line.includes('/build/') || line.includes('/dist/'));
  return `database error ${code}${about ? ` (${about})` : ''}${where ? ` ${where.trim()}` : ''}`;
}

/** The same with where it happened, for what nobody foresaw. */
export function failureStack(error: unknown): string {
  const { code, stack } = (error ?? {}) as { code?: unknown; stack?: string };
  if (typeof code === 'string' && SQLSTATE.test(code)) {
    const at = (stack ?? '').split('\n').filter((line) => /^\s+at /.test(line));
    return [failureWords(error), ...at].join('\n');
  }
  return stack ?? String(error);
}
