const words = (text: string) =>
  ` ${text
    .normalize('NFKC')
    .toLocaleLowerCase('en')
    .replace(/[^\p{L}\p{N}]+/gu, ' ')
    .trim()} `;

/**
 * Whether a reply says one of these words or phrases (one per line; none means any reply will do). Whole words count: "no"
 * is not said by "know", and neither case nor punctuation matters.
 */
export function saysOneOf(reply: string, wanted: string): boolean {
  const lines = wanted
    .split('\n')
    .map(words)
    .filter((line) => line.trim() !== '');
  const said = words(reply);
  return lines.length === 0 || lines.some((line) => said.includes(line));
}
