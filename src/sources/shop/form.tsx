import { useState } from 'react';
import { EventChoice } from '../../components/EventChoice.tsx';
import { Line, Tick } from '../../components/fields.tsx';
import { ConnectionChoice, firstOf, SetupForm } from '../../components/SetupForm.tsx';
import type { SourceFormProps } from '../source-form.ts';

const EVENTS = [
  { value: 'customer.created', label: 'A new customer' },
  { value: 'order.created', label: 'A new order' },
  { value: 'order.updated', label: 'An order changes' },
] as const;
type Event = (typeof EVENTS)[number]['value'];

export interface ShopChoices {
  events: Event[];
  statuses: string[];
  signed: boolean;
}

/** What to listen for and whether it must be signed; the same in the setup and on the source's page. */
export function ShopChoice({ value, onChange }: { value: ShopChoices; onChange: (value: ShopChoices) => void }) {
  return (
    <>
      <EventChoice
        label="Listen for"
        options={EVENTS}
        value={value.events}
        onChange={(events) => onChange({ ...value, events })}
      />
      {value.events.includes('order.updated') && (
        <Line
          label="Only when the order becomes (several with commas; empty for any)"
          value={value.statuses.join(', ')}
          placeholder="sent, returned"
          maxLength={2000}
          onChange={(text) => onChange({ ...value, statuses: text.split(',').map((one) => one.trimStart()) })}
        />
      )}
      <Tick
        label="Take only what the shop has signed"
        block="mb-3 flex items-start gap-2"
        value={value.signed}
        onChange={(signed) => onChange({ ...value, signed })}
        note={
          !value.signed && (
            <span className="notice bad mt-1 block">
              Without it, whoever knows the address can send made-up orders, and your workflows would answer them. Leave
              it on unless the shop cannot sign.
            </span>
          )
        }
      />
    </>
  );
}

export const tidied = (value: ShopChoices): ShopChoices => ({
  ...value,
  statuses: value.statuses.map((status) => status.trim()).filter(Boolean),
});

export default function ShopForm({ connections, create }: SourceFormProps) {
  const [connection, setConnection] = useState(firstOf(connections, 'shop'));
  const [value, setValue] = useState<ShopChoices>({
    events: ['customer.created', 'order.created'],
    statuses: [],
    signed: true,
  });
  return (
    <SetupForm
      button="Listen to this shop"
      ready={connection !== '' && value.events.length > 0}
      create={create}
      input={() => ({ kind: 'shop', connectionId: connection, ...tidied(value) })}
    >
      <ConnectionChoice
        connections={connections}
        kind="shop"
        label="Shop"
        value={connection}
        onChange={setConnection}
      />
      {connection !== '' && <ShopChoice value={value} onChange={setValue} />}
    </SetupForm>
  );
}
