import { useState } from 'react';
import { call } from '../../client/call.ts';
import { ToldLine } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { Choice } from '../../components/fields.tsx';

const CHOICES = ['', '12', '24', '36', '84'] as const;

/** How long notes of who changed what are kept. */
export default function KeepNotes({ first }: { first: number | null }) {
  const [months, setMonths] = useState(first === null ? '' : String(first));
  const { act, told } = useAction();
  return (
    <div>
      <Choice
        label="Notes are kept"
        small
        block="block max-w-56"
        value={months}
        options={[...new Set([...CHOICES, months])].map(
          (one) => [one, one === '' ? 'for good' : `for ${one} months`] as const,
        )}
        onChange={(next) =>
          void act(async () => {
            await call('PUT', '/api/record', { months: next === '' ? null : Number(next) });
            setMonths(next);
          }, 'Saved.')
        }
      />
      <ToldLine told={told} />
    </div>
  );
}
