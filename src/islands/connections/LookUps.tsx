import { useEffect, useState } from 'react';
import type { LookUpsView } from '../../app/account/table-look-ups.ts';
import { call } from '../../client/call.ts';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { Choice, Line, Tick } from '../../components/fields.tsx';
import type { TableLookUp } from '../../core/outside/table-look-up.ts';
import { askChoices } from '../sources/ask-choices.ts';
import { ListedForSteps } from './ListedForSteps.tsx';

interface Props {
  id: string;
  first: LookUpsView;
}
const asked = askChoices('database');
const choicesOf = async (connection: string, of: string): Promise<string[]> =>
  (await asked({ connection, of })).choices.map((one) => one.id);

/** What steps can ask of a database of the business's own: one row of a view, by one of its columns. */
export default function LookUps({ id, first }: Props) {
  return (
    <ListedForSteps<TableLookUp>
      title="What steps can ask of it"
      first={{ items: first.lookUps, seen: first.seen }}
      save={async (items, since) => {
        const { lookUps, seen } = await call('PUT', `/api/connections/${id}/look-ups`, { lookUps: items }, since);
        return { items: lookUps, seen };
      }}
      words={({ view, by, gives, newestBy }) =>
        `${view}, by ${by}: ${gives.join(', ')}${newestBy && `; of several the one with the highest ${newestBy}`}`
      }
      kept="Kept, and asked once."
      gone="It is taken out."
      add="Add a look-up"
      form={({ busy, onKeep }) => <NewLookUp id={id} busy={busy} onKeep={onKeep} />}
    >
      A row of a view, found by what is known of the lead. What stands in it becomes fields, with the step “Ask a
      service” in First.
    </ListedForSteps>
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
