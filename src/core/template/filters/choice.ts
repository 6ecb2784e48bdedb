import { type Filter, fine } from './filter.ts';

const same = (text: string) => text.normalize('NFC').trim().toLowerCase();

export const CHOICE = {
  default: {
    group: 'choice',
    label: 'if empty, say',
    takes: [{ label: 'this', takes: 'value', first: '' }],
    words: ([instead = '']) => `if empty, say “${instead}”`,
    apply: (value, [instead = '']) => fine(value.trim() === '' ? instead : value),
  },
  pick: {
    group: 'choice',
    label: 'by a table',
    takes: [{ label: 'if it is', takes: 'pairs', first: '' }],
    words: (args) => (args.length < 4 ? 'by a table' : `by a table of ${Math.floor(args.length / 2)}`),
    // Pairs, and one text more for whatever is in none of them; without it the value stays.
    apply: (value, args) => {
      for (let i = 0; i + 1 < args.length; i += 2) if (same(args[i]!) === same(value)) return fine(args[i + 1]!);
      if (args.length % 2 === 1) return fine(args.at(-1)!);
      return { value, problem: value.trim() === '' ? null : 'it is not in the table' };
    },
  },
} satisfies Record<string, Filter>;
