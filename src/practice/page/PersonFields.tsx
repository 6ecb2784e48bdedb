import parsePhone from 'libphonenumber-js';
import { useState } from 'react';
import { Line } from '../../components/fields.tsx';
import { someoneNew } from '../someone-new.ts';

/** Somebody invented, whose details can be changed. */
export function usePerson() {
  const [person, setPerson] = useState(someoneNew);
  const read = parsePhone(person.phone, 'GB');
  return {
    ...person,
    e164: read?.isPossible() ? (read.number as string) : null,
    fill: () => setPerson(someoneNew()),
    set: (change: Partial<ReturnType<typeof someoneNew>>) => setPerson({ ...person, ...change }),
  };
}

const FIELDS = [
  { key: 'first', label: 'First name' },
  { key: 'last', label: 'Last name' },
  { key: 'email', label: 'Email' },
  { key: 'phone', label: 'Phone' },
] as const;

export function PersonFields({ person }: { person: ReturnType<typeof usePerson> }) {
  return (
    <div className="grid grid-cols-2 gap-x-3 gap-y-2">
      {FIELDS.map(({ key, label }) => (
        <Line
          key={key}
          label={label}
          block="block"
          value={person[key]}
          maxLength={2000}
          onChange={(text) => person.set({ [key]: text })}
        />
      ))}
    </div>
  );
}
