import Plus from 'lucide-react/icons/plus';
import { Popover } from '../../components/Popover.tsx';
import { ANY_REPLY, type At } from '../../core/workflow/at.ts';

/** What a new moment can be, in the words of the menu. */
const CHOICES: { words: string; about: string; at: At }[] = [
  { words: 'A while later', about: '10 minutes, 3 days', at: { kind: 'later', span: { amount: 10, unit: 'minutes' } } },
  {
    words: 'At a time of day',
    about: 'next morning, working days',
    at: { kind: 'time_of_day', time: '09:00', day: 'next_day', workingDays: false, whose: 'lead' },
  },
  {
    words: 'When something happens',
    about: 'they reply, answer, book, click a link',
    at: ANY_REPLY,
  },
  {
    words: 'On a date they gave',
    about: 'or before or after it',
    at: {
      kind: 'on_date',
      field: '',
      side: 'before',
      span: { amount: 1, unit: 'days' },
      time: '09:00',
      whose: 'lead',
      ifPassed: 'skip',
    },
  },
];

/** A place on the rope for one more moment. */
export function AddMoment({ onAdd }: { onAdd: (at: At) => void }) {
  return (
    <div className="relative mb-4">
      <Popover
        label="Add a moment"
        button={
          <>
            <Plus className="size-4" aria-hidden="true" />
            Add a moment
          </>
        }
        buttonClass="btn btn-ghost btn-sm -ml-1.5 text-ink-2"
        panelClass="w-72 p-1"
        placement="bottom-start"
      >
        {(close) =>
          CHOICES.map(({ words, about, at }) => (
            <button
              key={words}
              type="button"
              className="block w-full rounded px-2 py-1.5 text-left hover:bg-base-200"
              onClick={() => {
                close();
                onAdd(structuredClone(at));
              }}
            >
              {words} <span className="block text-xs text-ink-2">{about}</span>
            </button>
          ))
        }
      </Popover>
    </div>
  );
}
