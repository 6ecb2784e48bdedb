import { useCallback, useEffect, useState } from 'react';
import { ChoicePicker } from '../../components/ChoicePicker.tsx';
import { Choice } from '../../components/fields.tsx';
import { ConnectionChoice, EveryChoice, firstOf, OneOf, SetupForm } from '../../components/SetupForm.tsx';
import type { SourceFormProps } from '../source-form.ts';

/** The likeliest of a view's columns, by how such columns are usually named. */
const likely = (names: readonly string[], words: RegExp) => names.find((name) => words.test(name)) ?? '';

export default function DatabaseForm({ connections, choices, create }: SourceFormProps) {
  const [connection, setConnection] = useState(firstOf(connections, 'database'));
  const [view, setView] = useState('');
  const [columns, setColumns] = useState<string[]>([]);
  const [key, setKey] = useState('');
  const [mark, setMark] = useState('');
  const [everyMinutes, setEvery] = useState(5);
  const [from, setFrom] = useState<'new' | 'held'>('new');
  const load = useCallback(
    (q: string, after: string | null) => choices({ connection, of: 'views', q, after }),
    [choices, connection],
  );
  useEffect(() => {
    if (view === '') return;
    let asked = true;
    choices({ connection, of: `columns:${view}` }).then(
      (page) => {
        if (!asked) return;
        const names = page.choices.map(({ id }) => id);
        setColumns(names);
        setKey(likely(names, /^(id|key|number)$|_id$/i));
        setMark(likely(names, /creat|added|inserted|_at$|^id$/i));
      },
      () => asked && setColumns([]),
    );
    return () => {
      asked = false;
    };
  }, [choices, connection, view]);
  const options = [['', 'Choose a column'] as const, ...columns.map((name) => [name, name] as const)];
  return (
    <SetupForm
      button="Listen to this view"
      ready={view !== '' && key !== '' && mark !== ''}
      create={create}
      input={() => ({ kind: 'database', connectionId: connection, view, key, mark, everyMinutes, from })}
    >
      <ConnectionChoice
        connections={connections}
        kind="database"
        label="Database"
        value={connection}
        onChange={setConnection}
      />
      {connection !== '' && (
        <ChoicePicker
          label="Which view or table"
          what={`view of ${connection}`}
          load={load}
          chosen={view ? [view] : []}
          onChoose={({ id }) => setView(id)}
        />
      )}
      {columns.length > 0 && (
        <>
          <Choice label="Each row is known by" value={key} options={options} onChange={setKey} />
          <Choice label="New rows have a higher" value={mark} options={options} onChange={setMark} />
          <EveryChoice value={everyMinutes} onChange={setEvery} />
          <OneOf
            label="Rows that are there already"
            value={from}
            options={[
              ['new', 'Stay there: only new ones come in'],
              ['held', 'Come in too'],
            ]}
            onChange={setFrom}
          />
        </>
      )}
    </SetupForm>
  );
}
