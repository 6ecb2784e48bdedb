import { templateText } from '../template/template.ts';

/** Fewer letters than this in capitals are a word like "RSVP", not shouting. */
const FEWEST = 8;

/**
 * What about a subject looks like junk to readers and to filters: all in capitals, a row of exclamation marks, longer than inboxes
 * show. Fields in it are left out. Common practice, no source.
 */
export function subjectProblems(subject: string): string[] {
  const typed = templateText(subject);
  const letters = [...typed].filter((one) => one.toLowerCase() !== one.toUpperCase());
  const capitals = letters.filter((letter) => letter === letter.toUpperCase()).length;
  const found: string[] = [];
  if (letters.length >= FEWEST && capitals / letters.length > 0.7)
    found.push('The subject is in capitals: many take that for junk.');
  if (/[!?]{2,}/.test(typed) || (typed.match(/!/g) ?? []).length > 2)
    found.push('The subject has a row of exclamation marks: many take that for junk.');
  if ([...typed].length > 120) found.push('The subject is longer than inboxes show: say it in about 60 characters.');
  return found;
}
