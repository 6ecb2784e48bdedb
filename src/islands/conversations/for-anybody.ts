/** An answer for next time: this person's first name in it, as a word of its own, becomes that of whoever gets it. */
export function forAnybody(text: string, firstName: string): string {
  const name = firstName.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');
  return name === ''
    ? text
    : text.replace(new RegExp(`(?<![\\p{L}\\p{N}])${name}(?![\\p{L}\\p{N}])`, 'gu'), '{{ lead.first_name }}');
}
