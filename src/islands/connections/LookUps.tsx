import { useEffect, useState } from 'react';
import type { LookUpsView } from '../../app/account/table-look-ups.ts';
import { call } from '../../client/call.ts';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { Choice, Line, Tick } from '../../components/fields.tsx';
import type { TableLookUp } from '../../core/outside/table-look-up.ts';
import { askChoices } from '../sources/ask-choices.ts';
import { keyOf } from './key-of.ts';

interface Props {
  id: string;
  first: LookUpsView;
}
const asked = askChoices('database');
const choicesOf = async (connection: string, of: string): Promise<string[]> =>
  (await asked({ connection, of })).choices.map((one) => one.id);

/** What steps can ask of a database of the business's own: one row of a view, by one of its columns. */
export default function LookUps({ id, first }: Props) {
  const [{ lookUps, seen }, setKept] = useState(first);
  const [adding, setAdding] = useState(false);
  const { act, busy, told } = useAction();
  const keep = (next: TableLookUp[], words: string) =>
    act(
      async () => {
        setKept(await call('PUT', `/api/connections/${id}/look-ups`, { lookUps: next }, seen));
        setAdding(false);
      },
      () => words,
    );
  return (
    <section className="sheet-card mb-4 p-4">
      <h2 className="mb-1 text-part">What steps can ask of it</h2>
      <p className="mb-3 text-note text-ink-2">
        A row of a view, found by what is known of the lead. What stands in it becomes fields, with the step “Ask a
        service” in First.
      </p>
      <ul className="mb-3 space-y-2">
        {lookUps.map((one) => (
          <li key={one.key} className="flex flex-wrap items-center gap-x-3 gap-y-1 text-note">
            <span className="font-semibold">{one.label}</span>
            <span className="text-ink-2">
              {one.view}, by {one.by}: {one.gives.join(', ')}
              {one.newestBy && `; of several the one with the highest ${one.newestBy}`}
            </span>
            <button
              type="button"
              className="btn btn-ghost btn-xs"
              aria-label={`Take out: ${one.label}`}
              disabled={busy}
              onClick={() =>
                void keep(
                  lookUps.filter((other) => other !== one),
                  'It is taken out.',
                )
              }
            >
              Take out
            </button>
          </li>
        ))}
      </ul>
      {adding ? (
        <NewLookUp
          id={id}
          busy={busy}
          onKeep={(made) =>
            void keep(
              [
                ...lookUps,
                {
                  ...made,
                  key: keyOf(
                    made.label,
                    lookUps.map(({ key }) => key),
                    'look_up',
                  ),
                },
              ],
              'Kept, and asked once.',
            )
          }
        />
      ) : (
        <button type="button" className="btn btn-plain btn-sm" onClick={() => setAdding(true)}>
          Add a look-up
        </button>
      )}
      <Notice told={told} className="mt-3" />
    </section>
  );
}

function NewLookUp({
  id,
  busy,
  onKeep,
}: {
  id: string;
  busy: boolean;
  onKeep: (made: Omit<TableLookUp, 'key'>) => void;
}) {
  const [views, setViews] = useState<string[]>([]);
  const [columns, setColumns] = useState<string[]>([]);
  const [label, setLabel] = useState('');
  const [view, setView] = useState('');
  const [by, setBy] = useState('');
  const [newestBy, setNewestBy] = useState('');
  const [gives, setGives] = useState<string[]>([]);
  const { act, told } = useAction();
  // biome-ignore lint/correctness/useExhaustiveDependencies: asked once, when it is opened
  useEffect(() => {
    void act(async () => setViews(await choicesOf(id, 'views')));
  }, []);
  const choose = (next: string) => {
    setView(next);
    setColumns([]);
    setGives([]);
    setBy('');
    setNewestBy('');
    if (next)
      void act(async () => {
        const found = await choicesOf(id, `columns:${next}`);
        setColumns(found);
        setBy(found.find((name) => /mail/i.test(name)) ?? '');
      });
  };
  const options = columns.map((name) => [name, name] as const);
  return (
    <form
      className="grid gap-x-4 gap-y-2 md:grid-cols-2"
      onSubmit={(event) => {
        event.preventDefault();
        onKeep({ label, view, by, gives, newestBy });
      }}
    >
      <Line
        label="What is asked for"
        small
        required
        maxLength={60}
        placeholder="Customer"
        value={label}
        onChange={setLabel}
      />
      <Choice
        label="In the view or table"
        small
        value={view}
        options={[['', 'Choose one'], ...views.map((name) => [name, name] as const)]}
        onChange={choose}
      />
      {columns.length > 0 && (
        <>
          <Choice label="Found by" small value={by} options={[['', 'Choose a column'], ...options]} onChange={setBy} />
          <Choice
            label="Of several, the one with the highest"
            small
            value={newestBy}
            options={[['', 'any of them'], ...options]}
            onChange={setNewestBy}
          />
          <fieldset className="md:col-span-2">
            <legend className="field-label">What is read</legend>
            <div className="flex flex-wrap gap-x-4">
              {columns.map((name) => (
                <Tick
                  key={name}
                  label={name}
                  value={gives.includes(name)}
                  onChange={(on) => setGives(on ? [...gives, name] : gives.filter((one) => one !== name))}
                />
              ))}
            </div>
          </fieldset>
          <button
            className="btn btn-primary btn-sm justify-self-start"
            type="submit"
            disabled={busy || by === '' || gives.length === 0}
          >
            Keep it
          </button>
        </>
      )}
      <Notice told={told} className="md:col-span-2" />
    </form>
  );
}
