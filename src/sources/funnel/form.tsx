import { useCallback, useState } from 'react';
import { ChoicePicker } from '../../components/ChoicePicker.tsx';
import { EventChoice } from '../../components/EventChoice.tsx';
import { Line } from '../../components/fields.tsx';
import { ConnectionChoice, firstOf, SetupForm } from '../../components/SetupForm.tsx';
import type { SourceFormProps } from '../source-form.ts';

export const EVENTS = [
  { value: 'opt-in', label: 'Opt-in: somebody leaves their details' },
  { value: 'purchase', label: 'Purchase: somebody buys' },
] as const;
type Event = (typeof EVENTS)[number]['value'];

export default function FunnelForm({ connections, choices, create }: SourceFormProps) {
  const [connection, setConnection] = useState(firstOf(connections, 'funnel_host'));
  const [chosen, setChosen] = useState('');
  const [pasted, setPasted] = useState('');
  const [events, setEvents] = useState<Event[]>(['opt-in']);
  const load = useCallback(
    (q: string, after: string | null) => choices({ connection, q, after }),
    [choices, connection],
  );
  const step = pasted.trim() || chosen;
  return (
    <SetupForm
      button="Listen to this page"
      ready={step !== '' && events.length > 0}
      create={create}
      input={() => ({ kind: 'funnel', connectionId: connection, step, events })}
    >
      <ConnectionChoice
        connections={connections}
        kind="funnel_host"
        label="Funnel host"
        value={connection}
        onChange={(id) => {
          setConnection(id);
          setChosen('');
        }}
      />
      {connection !== '' && (
        <>
          <ChoicePicker
            label="Which page"
            what={`funnel of ${connection}`}
            load={load}
            chosen={pasted.trim() ? [] : [chosen]}
            onChoose={(choice) => {
              setChosen(choice.id);
              setPasted('');
            }}
            notLive="Not live"
          />
          <Line
            label="Or paste the page's ID or address"
            value={pasted}
            placeholder="https://pages.wrenfield.example/practice-planner/step-0001"
            maxLength={2000}
            onChange={setPasted}
          />
          <EventChoice label="Listen for" options={EVENTS} value={events} onChange={setEvents} />
        </>
      )}
    </SetupForm>
  );
}
