import { Choice, Line, Tick } from '../../components/fields.tsx';
import { HEARD_MEANINGS, type Hears } from '../../core/described/description.ts';
import { Commas, Pick, ReadRows } from './FieldRows.tsx';
import { Rows } from './Rows.tsx';

type Kind = Hears['kinds'][number];
const MEANINGS: Record<(typeof HEARD_MEANINGS)[number], string> = {
  delivered: 'a message has arrived',
  undelivered: 'a message has not',
  read: 'a message was read',
  received: 'somebody has written',
  form: 'a form was filled in',
  template: 'a template was reviewed',
  event: 'something for a source',
  nothing: 'nothing to us',
};
const KNOWN: Partial<Record<Kind['means'], Record<string, string>>> = {
  delivered: { reference: 'Our key of the message', id: 'Their name for it', at: 'When' },
  undelivered: {
    reference: 'Our key of the message',
    id: 'Their name for it',
    detail: 'Why',
    code: 'A code',
    at: 'When',
  },
  read: { reference: 'Our key of the message', id: 'Their name for it', at: 'When' },
  received: { id: 'Its name there', from: 'Whose number', to: 'To which of ours', text: 'What they wrote', at: 'When' },
};
const FRESH: Hears = {
  signed: { way: 'standard-webhooks' },
  handshake: '',
  events: '',
  kind: '',
  id: '',
  kinds: [{ is: [], means: 'event', reads: {} }],
  others: 'let-go',
  reply: { status: 200, body: '' },
};
const SIGNED: Record<Hears['signed']['way'], Hears['signed']> = {
  address: { way: 'address' },
  'standard-webhooks': { way: 'standard-webhooks' },
  hmac: {
    way: 'hmac',
    digest: 'sha256',
    encoding: 'hex',
    header: 'x-signature',
    prefix: '',
    key: '{{ given.secret }}',
    over: '{{ given.body }}',
    timeHeader: '',
  },
  basic: { way: 'basic', user: 'pine-bell' },
};

/** What a service tells us by itself, and how it proves that it is the service. */
export function HearsEditor({ value, onChange }: { value: Hears | null; onChange: (value: Hears | null) => void }) {
  const set = (patch: Partial<Hears>) => onChange({ ...(value ?? FRESH), ...patch });
  if (!value) return <Tick label="It tells us of things by itself" value={false} onChange={() => onChange(FRESH)} />;
  const { signed } = value;
  const signs = (patch: object) => set({ signed: { ...signed, ...patch } as Hears['signed'] });
  return (
    <>
      <Tick label="It tells us of things by itself" value onChange={() => onChange(null)} />
      <div className="grid gap-x-3 sm:grid-cols-2">
        <Choice
          label="How it proves itself"
          small
          value={signed.way}
          options={[
            ['standard-webhooks', 'Standard Webhooks'],
            ['hmac', 'An HMAC in a header'],
            ['basic', 'User name and password'],
            ['address', 'Not at all: whoever knows the address'],
          ]}
          onChange={(way) => set({ signed: SIGNED[way] })}
        />
        {signed.way === 'basic' && (
          <Line label="User name" small value={signed.user} onChange={(user) => signs({ user })} />
        )}
        {signed.way === 'hmac' &&
          (
            [
              ['header', 'Header of the signature'],
              ['prefix', 'Before the signature'],
              ['key', 'Key that signs'],
              ['over', 'What is signed: given.body, given.time'],
              ['timeHeader', 'Header of the time'],
            ] as const
          ).map(([key, label]) => (
            <Line
              key={key}
              label={label}
              small
              maxLength={5000}
              value={signed[key]}
              onChange={(text) => signs({ [key]: text })}
            />
          ))}
        <Line
          label="First it sends a challenge under this name"
          small
          placeholder="challenge"
          value={value.handshake}
          onChange={(handshake) => set({ handshake })}
        />
        <Line
          label="Where the list of events stands, if several come at once"
          small
          placeholder="$.events"
          value={value.events}
          onChange={(events) => set({ events })}
        />
        <Line
          label="Where its kind stands"
          small
          placeholder="$.type"
          value={value.kind}
          onChange={(kind) => set({ kind })}
        />
        <Line
          label="Where its own name stands, by which a repeat is known"
          small
          placeholder="$.id"
          value={value.id}
          onChange={(id) => set({ id })}
        />
      </div>
      <Rows
        title="Kinds of events"
        rows={value.kinds}
        fresh={(): Kind => ({ is: [], means: 'event', reads: {} })}
        onChange={(kinds) => set({ kinds })}
      >
        {(row, patch) => (
          <div className="grow rounded-lg bg-base-200 p-2">
            <div className="mb-2 flex flex-wrap items-center gap-1 text-note">
              <Commas
                label="Kinds, with commas; all others when empty"
                placeholder="contact.created"
                className="font-mono"
                style={{ width: 'auto', flex: '2 1 10rem' }}
                value={row.is}
                onChange={(is) => patch({ is })}
              />
              means
              <Pick
                label="What it means"
                value={row.means}
                options={HEARD_MEANINGS.map((one) => [one, MEANINGS[one]] as const)}
                onChange={(means) => patch({ means })}
              />
            </div>
            {row.means !== 'nothing' && (
              <ReadRows
                title="What is read from it"
                reads={row.reads}
                known={KNOWN[row.means] ?? {}}
                onChange={(reads) => patch({ reads })}
              />
            )}
          </div>
        )}
      </Rows>
    </>
  );
}
