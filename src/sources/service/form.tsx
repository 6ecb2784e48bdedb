import { useCallback, useState } from 'react';
import { ChoicePicker } from '../../components/ChoicePicker.tsx';
import { ConnectionChoice, EveryChoice, firstOf, OneOf, SetupForm } from '../../components/SetupForm.tsx';
import type { SourceFormProps } from '../source-form.ts';

export default function ServiceSourceForm({ connections, choices, create }: SourceFormProps) {
  const [connection, setConnection] = useState(firstOf(connections, 'service'));
  const [what, setWhat] = useState('');
  const [everyMinutes, setEvery] = useState(5);
  const load = useCallback(
    (query: string, after: string | null) => choices({ connection, of: 'what', q: query, after }),
    [choices, connection],
  );
  const [from, setFrom] = useState<'new' | 'held'>('new');
  return (
    <SetupForm
      button="Listen to this service"
      ready={connection !== '' && what !== ''}
      create={create}
      input={() => ({ kind: 'service', connectionId: connection, what, everyMinutes, from })}
    >
      <ConnectionChoice
        connections={connections}
        kind="service"
        label="Service"
        value={connection}
        onChange={(id) => {
          setConnection(id);
          setWhat('');
        }}
      />
      {connection !== '' && (
        <ChoicePicker
          label="Listen for"
          what={`service ${connection}`}
          load={load}
          chosen={what ? [what] : []}
          onChoose={({ id }) => setWhat(id)}
        />
      )}
      {what.startsWith('fetch:') && (
        <>
          <EveryChoice value={everyMinutes} onChange={setEvery} />
          <OneOf
            label="What is there already"
            value={from}
            options={[
              ['new', 'Stays there: only what is new comes in'],
              ['held', 'Comes in too'],
            ]}
            onChange={setFrom}
          />
        </>
      )}
    </SetupForm>
  );
}
