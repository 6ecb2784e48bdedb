import { useState } from 'react';
import type { PersonView } from '../../app/people/people.ts';
import type { TeamView } from '../../app/people/teams.ts';
import { call } from '../../client/call.ts';
import { ToldLine } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { Line, Tick } from '../../components/fields.tsx';
import { Popover } from '../../components/Popover.tsx';

/** A team by its name and who is in it. */
function TeamForm({
  first,
  people,
  onSave,
  onRemove,
}: {
  first: { name: string; people: string[] };
  people: readonly PersonView[];
  onSave: (team: { name: string; people: string[] }) => Promise<unknown>;
  onRemove?: () => Promise<unknown>;
}) {
  const [name, setName] = useState(first.name);
  const [chosen, setChosen] = useState(first.people);
  const { act, busy, told } = useAction();
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        void act(() => onSave({ name, people: chosen }));
      }}
    >
      <Line label="Name of the team" small maxLength={60} value={name} onChange={setName} />
      <div className="mb-3 max-h-60 overflow-y-auto">
        {people.map((person) => (
          <Tick
            key={person.id}
            label={person.name}
            value={chosen.includes(person.id)}
            onChange={(on) => setChosen(on ? [...chosen, person.id] : chosen.filter((id) => id !== person.id))}
          />
        ))}
      </div>
      <ToldLine told={told} className="mb-2" />
      <div className="flex gap-2">
        <button type="submit" className="btn btn-primary btn-sm" disabled={busy || name.trim() === ''}>
          Save the team
        </button>
        {onRemove && (
          <button type="button" className="btn btn-ghost btn-sm" disabled={busy} onClick={() => void act(onRemove)}>
            Remove it
          </button>
        )}
      </div>
    </form>
  );
}

/** People who share their leads. */
export function Teams({
  teams,
  people,
  mayChange,
  onDone,
}: {
  teams: readonly TeamView[];
  people: readonly PersonView[];
  mayChange: boolean;
  onDone: () => Promise<void>;
}) {
  const nameOf = (id: string) => people.find((person) => person.id === id)?.name;
  return (
    <section className="sheet-card mb-4 p-4" aria-label="Teams">
      <h2 className="mb-1 text-part">Teams</h2>
      <p className="mb-3 text-note text-ink-2">Somebody at the desk can be kept to the leads of their teams.</p>
      <ul>
        {teams.map((team) => (
          <li key={team.id} className="flex flex-wrap items-center gap-3 border-b border-base-300 py-2">
            <span className="font-semibold">{team.name}</span>
            <span className="min-w-0 grow text-note text-ink-2">
              {team.people.map(nameOf).filter(Boolean).join(', ') || 'Nobody yet'}
            </span>
            {mayChange && (
              <Popover
                button="Change"
                label={`Change ${team.name}`}
                buttonClass="btn btn-plain btn-xs"
                panelClass="w-72 p-3"
              >
                {(close) => (
                  <TeamForm
                    first={team}
                    people={people}
                    onSave={async (input) => {
                      await call('PUT', `/api/teams/${team.id}`, input);
                      await onDone();
                      close();
                    }}
                    onRemove={async () => {
                      await call('DELETE', `/api/teams/${team.id}`);
                      await onDone();
                      close();
                    }}
                  />
                )}
              </Popover>
            )}
          </li>
        ))}
      </ul>
      {mayChange && (
        <div className="mt-3">
          <Popover button="New team" buttonClass="btn btn-plain btn-sm" panelClass="w-72 p-3">
            {(close) => (
              <TeamForm
                first={{ name: '', people: [] }}
                people={people}
                onSave={async (input) => {
                  await call('POST', '/api/teams', input);
                  await onDone();
                  close();
                }}
              />
            )}
          </Popover>
        </div>
      )}
    </section>
  );
}
