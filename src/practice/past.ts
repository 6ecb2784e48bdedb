import { FIRST_NAMES, LAST_NAMES } from './invented-names.ts';
import type { Episode, FormEntry } from './world-state.ts';

const DAY = 86_400_000;
const AGES = ['6 to 8', '9 to 11', '12 to 14', '15 to 17'];

/** What happened in the practice world before anybody looked: held entries of the summer camp, and old episodes. */
export function practicePast(now: number): { entries: FormEntry[]; episodes: Episode[] } {
  const entries = Array.from({ length: 140 }, (_, i) => {
    const first = FIRST_NAMES[(i * 7) % FIRST_NAMES.length]!;
    const last = LAST_NAMES[(i * 11 + 3) % LAST_NAMES.length]!;
    return {
      id: `camp-${String(i + 1).padStart(4, '0')}`,
      formId: 'form-summer-camp',
      at: new Date(now - 86 * DAY + i * 0.5 * DAY).toISOString(),
      answers: {
        full_name: `${first} ${last}`,
        email: `${first}.${last}.${i}@example.org`.toLowerCase(),
        mobile: `07700 900${640 + i}`,
        child_age: AGES[i % AGES.length]!,
        consent: i % 9 === 0 ? 'false' : 'true',
      },
    };
  });
  const titles = ['Why scales?', 'The quiet hand', 'A choir of beginners', 'Strings in winter'];
  const episodes = titles.map((title, i) => ({
    id: `0e6f0c5e-1b0a-4c3e-9b59-00000000000${i}`,
    title,
    summary: `Episode ${i + 1} of The Wrenfield Hour: ${title.toLowerCase()}`,
    at: new Date(now - (28 - i * 7) * DAY).toISOString(),
  }));
  return { entries, episodes };
}
