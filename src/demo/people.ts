/** Invented people. Numbers come from the range set aside for fiction (07700 900000 to 900999), addresses from reserved domains. */
export interface Invented {
  first: string;
  last: string;
  email: string;
  phone: string;
  instrument: string;
}

const FIRST = [
  'Nadia',
  'Teo',
  'Salma',
  'Grace',
  'Ivo',
  'Maren',
  'Pavel',
  'Ayla',
  'Jonah',
  'Mirela',
  'Odette',
  'Ruben',
  'Siobhan',
  'Tariq',
  'Wanda',
  'Yusuf',
  'Beatrix',
  'Caspian',
  'Delphine',
  'Emrys',
  'Fenella',
  'Gideon',
  'Hesper',
  'Idris',
  'Juno',
  'Kester',
  'Linnea',
  'Marlow',
  'Nerys',
  'Osric',
];
const LAST = [
  'Okafor',
  'Marchetti',
  'Haddad',
  'Lindqvist',
  'Brandt',
  'Quill',
  'Dusek',
  'Ferrant',
  'Abiola',
  'Castell',
  'Novik',
  'Ormsby',
  'Tarrow',
  'Venn',
  'Wexcombe',
  'Zeller',
  'Aldous',
  'Birchall',
  'Corrigan',
  'Dunmore',
  'Eastley',
  'Fairweather',
  'Garrick',
  'Holloway',
  'Ingram',
  "O'Hanlon",
  'van der Meer',
  'Penhallow',
  'Rosewarne',
  'Sandoval',
];
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

/** A supply of different people; asks for more than it has are an error. */
export function inventPeople(random: () => number, most: number): { next(): Invented } {
  const pick = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)]!;
  const numbers = Array.from({ length: 1000 }, (_, i) => i);
  for (let i = numbers.length - 1; i > 0; i--) {
    const j = Math.floor(random() * (i + 1));
    [numbers[i], numbers[j]] = [numbers[j]!, numbers[i]!];
  }
  const names = new Set<string>();
  let given = 0;
  return {
    next() {
      if (given >= Math.min(most, numbers.length)) throw new Error('There are no more invented people.');
      let first = pick(FIRST);
      let last = pick(LAST);
      while (names.has(`${first} ${last}`)) [first, last] = [pick(FIRST), pick(LAST)];
      names.add(`${first} ${last}`);
      const phone = `07700 900${String(numbers[given++]).padStart(3, '0')}`;
      return {
        first,
        last,
        email: `${first}.${last}`.toLowerCase().replace(/[^a-z.]/g, '') + `@${pick(DOMAINS)}`,
        phone,
        instrument: pick(INSTRUMENTS),
      };
    },
  };
}
