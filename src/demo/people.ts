import { FIRST_NAMES, LAST_NAMES } from '../practice/invented-names.ts';

/** Invented people. Numbers come from the range set aside for fiction (07700 900000 to 900999), addresses from reserved domains. */
export interface Invented {
  first: string;
  last: string;
  email: string;
  phone: string;
  instrument: string;
}

const DOMAINS = ['example.com', 'example.org', 'example.net'];
const INSTRUMENTS = [
  'Piano',
  'Piano',
  'Piano',
  'Violin',
  'Violin',
  'Guitar',
  'Guitar',
  'Cello',
  'Flute',
  'Singing',
  'Singing',
  'Drums',
];

export interface People {
  next(): Invented;
  /** Somebody who gives no number. */
  byEmailOnly(): Invented;
}

/** Tries for a name nobody has: of one surname, and of any. */
const PLAIN_TRIES = 20;
const MOST_TRIES = 2000;

/** A supply of different people; asks for more than it has are an error. */
export function inventPeople(random: () => number, most: number): People {
  const pick = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)]!;
  // Each of those who are invented has numbers of their own: who stands in the sheets and files 600 to 639, the camp 640 to 779, who is made up
  // at the practice desk those from 780 on. Two people under one number are a question, and a fresh demo asks none.
  const numbers = Array.from({ length: 600 }, (_, i) => i).filter((n) => n !== 100 && n !== 150);
  for (let i = numbers.length - 1; i > 0; i--) {
    const j = Math.floor(random() * (i + 1));
    [numbers[i], numbers[j]] = [numbers[j]!, numbers[i]!];
  }
  const names = new Set<string>();
  let given = 0;
  const somebody = (phone: string): Invented => {
    let first = pick(FIRST_NAMES);
    let last = pick(LAST_NAMES);
    // How many come depends on the day and the hour: once most plain names are given, the others bear two.
    for (let tries = 1; names.has(`${first} ${last}`); tries++) {
      if (tries > MOST_TRIES) throw new Error('There are no more names for invented people.');
      [first, last] = [pick(FIRST_NAMES), pick(LAST_NAMES)];
      if (tries > PLAIN_TRIES) last = `${last}-${pick(LAST_NAMES)}`;
    }
    names.add(`${first} ${last}`);
    return {
      first,
      last,
      email: `${first}.${last}`.toLowerCase().replace(/[^a-z.]/g, '') + `@${pick(DOMAINS)}`,
      phone,
      instrument: pick(INSTRUMENTS),
    };
  };
  return {
    next() {
      if (given >= Math.min(most, numbers.length)) throw new Error('There are no more invented people.');
      return somebody(`07700 900${String(numbers[given++]).padStart(3, '0')}`);
    },
    byEmailOnly: () => somebody(''),
  };
}
