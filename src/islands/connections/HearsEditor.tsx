import { Choice, Line, Tick } from '../../components/fields.tsx';
import type { Hears } from '../../core/described/description.ts';
import { MEANINGS, type Meaning } from '../../core/described/meanings.ts';
import { Commas, Pick, ReadRows } from './FieldRows.tsx';
import { Rows } from './Rows.tsx';

type Kind = Hears['kinds'][number];
const FRESH: Hears = {
  signed: { way: 'standard-webhooks' },
  handshake: '',
  events: '',
  kind: '',
  id: '',
  kinds: [],
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
export function HearsEditor({
  value,
  meanings,
  onChange,
}: {
  value: Hears | null;
  /** What its events can mean, the likeliest first. */
  meanings: readonly Meaning[];
  onChange: (value: Hears | null) => void;
}) {
  const freshKind = (): Kind => ({ is: [], means: meanings.includes('event') ? 'event' : meanings[0]!, reads: {} });
  const set = (patch: Partial<Hears>) => onChange({ ...(value ?? FRESH), ...patch });
  if (!value)
    return (
      <Tick
        label="It tells us of things by itself"
        value={false}
        onChange={() => onChange({ ...FRESH, kinds: [freshKind()] })}
      />
    );
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
      <Rows title="Kinds of events" rows={value.kinds} fresh={freshKind} onChange={(kinds) => set({ kinds })}>
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
                options={[...new Set([...meanings, row.means])].map((one) => [one, MEANINGS[one].label] as const)}
                onChange={(means) => patch({ means })}
              />
            </div>
            {row.means !== 'nothing' && (
              <ReadRows
                title="What is read from it"
                reads={row.reads}
                known={MEANINGS[row.means].reads}
                onChange={(reads) => patch({ reads })}
              />
            )}
          </div>
        )}
      </Rows>
    </>
  );
}
