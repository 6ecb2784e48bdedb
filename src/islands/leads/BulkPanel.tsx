import { useState } from 'react';
import { call } from '../../client/call.ts';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { Bare, Choice, Tick } from '../../components/fields.tsx';
import { ThingChoice } from '../../components/ThingChoice.tsx';
import { BulkAction, bulkWords } from '../../core/people/bulk-action.ts';
import type { LeadChoice } from '../../core/people/lead-choice.ts';
import type { Catalogue } from '../../core/workflow/step-kind.ts';

type Does = BulkAction['does'];

/** Chooses what is done with the leads meant, says it once more with their number, and begins it. */
export function BulkPanel({
  choice,
  count,
  people,
  catalogue,
  owner,
  begun,
}: {
  choice: LeadChoice;
  count: number;
  /** "12 leads". */
  people: string;
  catalogue: Catalogue;
  owner: boolean;
  begun: () => void;
}) {
  const [does, setDoes] = useState<Does>('tag');
  const [which, setWhich] = useState('');
  const [proven, setProven] = useState(false);
  const [typed, setTyped] = useState('');
  const { act, busy, told } = useAction();
  const about =
    does === 'tag' || does === 'untag'
      ? { label: 'Tag', all: catalogue.tags }
      : does === 'owner'
        ? { label: 'Colleague', all: [{ id: 'nobody', name: 'Nobody' }, ...catalogue.colleagues] }
        : does === 'erase'
          ? null
          : { label: 'List', all: catalogue.lists };
  const read = BulkAction.safeParse({
    does,
    tag: which,
    list: which,
    proven,
    person: which === 'nobody' ? null : which,
  });
  const action = read.success ? read.data : null;
  const list = catalogue.lists.find((list) => list.id === which);
  const sure = does !== 'erase' || typed.trim() === String(count);
  const begin = () =>
    act(async () => {
      if (!action) return;
      await call('POST', '/api/bulk', { choice, action, count });
      begun();
    });
  return (
    <>
      <Choice
        label={`With ${people}`}
        value={does}
        options={[
          ['tag', 'Give them a tag'],
          ['untag', 'Take a tag off them'],
          ['join', 'Put them on a list'],
          ['leave', 'Take them off a list'],
          ['clean', 'Clean them from a list: writing to them leads to nothing'],
          ['owner', 'Give them to a colleague'],
          ...(owner ? ([['erase', 'Erase them for good']] as const) : []),
        ]}
        onChange={(next) => {
          setDoes(next);
          setWhich((next === 'leave' || next === 'clean') && choice.list ? choice.list.id : '');
        }}
      />
      {about && (
        <ThingChoice
          label={about.label}
          what={about.label.toLowerCase()}
          value={which}
          things={about.all}
          onChange={setWhich}
        />
      )}
      {does === 'join' && list?.optIn === 'double' && (
        <Tick label="They have agreed already: do not ask them to confirm" value={proven} onChange={setProven} />
      )}
      {does === 'join' && (
        <p className="mb-2 text-note text-ink-2">
          Who has left this list stays off it. Its live sequences begin for everybody who joins.
        </p>
      )}
      {does === 'erase' && (
        <div className="mb-2 text-note">
          Everything of them goes for good, and this cannot be undone. Type {count} to go on.
          <Bare label="Their number, to erase them" className="mt-1" placeholder="" value={typed} onChange={setTyped} />
        </div>
      )}
      {action && (
        <p className="mb-2 text-note" data-testid="bulk-words">
          {bulkWords(action, catalogue)}: {people}.
        </p>
      )}
      <button
        type="button"
        className={`btn btn-sm w-full ${does === 'erase' ? 'btn-error' : 'btn-primary'}`}
        disabled={busy || !action || !sure}
        onClick={() => void begin()}
      >
        {does === 'erase' ? `Erase ${people}` : `Do it with ${people}`}
      </button>
      <Notice told={told} className="mt-2 text-note" />
    </>
  );
}
