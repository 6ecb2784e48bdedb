/** Headers of a mail by lower-case name, unfolded (RFC 5322 §2.2.3); of several with one name the first counts. */
export function headersByName(headerLines: Iterable<{ key: string; line: string }>): Record<string, string> {
  const found: Record<string, string> = {};
  for (const { key, line } of headerLines)
    found[key] ??= line
      .slice(line.indexOf(':') + 1)
      .replace(/\r?\n[ \t]+/g, ' ')
      .trim();
  return found;
}
