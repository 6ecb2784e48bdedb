import Plus from 'lucide-react/icons/plus';
import { useState } from 'react';
import { Bare, Line, Tick } from '../../components/fields.tsx';
import { TakeAway } from '../../components/row-buttons.tsx';
import { type Asked, Call, type Description } from '../../core/described/description.ts';
import type { Meaning } from '../../core/described/meanings.ts';
import type { CallWork } from '../../core/described/works.ts';
import { CallEditor } from './CallEditor.tsx';
import { HearsEditor } from './HearsEditor.tsx';
import { OffersEditor } from './OffersEditor.tsx';
import { Rows } from './Rows.tsx';
import { SignInEditor } from './SignInEditor.tsx';

interface Props {
  value: Description;
  /** The calls its kind of service has, by name. */
  works: Record<string, CallWork>;
  /** What its events can mean. */
  meanings: readonly Meaning[];
  /** Only what is used in workflows: records, questions, things that are fetched. */
  offers: boolean;
  /** Where a service's own page sends people back to. */
  backTo: string;
  onChange: (value: Description) => void;
}

/** A description in a form: who it is, how it is signed in to, its calls, what it tells us. */
export function DescriptionEditor({ value, works, meanings, offers, backTo, onChange }: Props) {
  const change = (patch: Partial<Description>) => onChange({ ...value, ...patch });
  const [fresh, setFresh] = useState('');
  const setCall = (name: string, patch: Partial<Call>) =>
    change({ calls: { ...value.calls, [name]: { ...value.calls[name]!, ...patch } } });
  const addCall = (name: string) => {
    change({ calls: { ...value.calls, [name]: Call.parse({}) } });
    setFresh('');
  };
  const missing = Object.keys(works).filter((name) => !Object.hasOwn(value.calls, name));
  const named = /^[a-z][a-z0-9_]{0,39}$/.test(fresh) && !Object.hasOwn(value.calls, fresh);
  return (
    <>
      <div className="grid gap-x-3 sm:grid-cols-2">
        <Line
          label="Name of the description"
          small
          maxLength={100}
          value={value.name}
          onChange={(name) => change({ name })}
        />
        <Line
          label="Where every call begins"
          small
          maxLength={5000}
          placeholder="https://rooms.example/api"
          value={value.address}
          onChange={(address) => change({ address })}
        />
      </div>
      <Rows
        title="What is filled in for an account"
        note="Each can be used as {{ account.… }}. Whoever takes this description fills in their own."
        rows={value.asks}
        fresh={(): Asked => ({ key: '', label: '', secret: false, help: '', needed: true })}
        onChange={(asks) => change({ asks })}
      >
        {(row, set) => (
          <>
            <Bare
              label="Name for people"
              placeholder="Key of the account"
              style={{ width: 'auto', flex: '2 1 8rem' }}
              value={row.label}
              onChange={(label) => set({ label })}
            />
            <Bare
              label="Name in the description"
              placeholder="key"
              className="font-mono"
              style={{ width: '7rem' }}
              value={row.key}
              onChange={(key) => set({ key })}
            />
            <Tick
              label="secret"
              block="flex items-center gap-1 text-note"
              value={row.secret}
              onChange={(secret) => set({ secret })}
            />
            <Tick
              label="needed"
              block="flex items-center gap-1 text-note"
              value={row.needed}
              onChange={(needed) => set({ needed })}
            />
          </>
        )}
      </Rows>
      <SignInEditor value={value.signIn} backTo={backTo} onChange={(signIn) => change({ signIn })} />
      <div className="grid gap-x-3 sm:grid-cols-2">
        {(
          [
            ['perSecond', 'Most calls in a second; 0 for no limit'],
            ['atOnce', 'Most calls at a time; 0 for no limit'],
          ] as const
        ).map(([key, label]) => (
          <Line
            key={key}
            label={label}
            small
            type="number"
            min={0}
            value={value.limits[key]}
            onChange={(text) => change({ limits: { ...value.limits, [key]: Number(text) || 0 } })}
          />
        ))}
      </div>
      <h3 className="mt-2 mb-1 font-head">Calls</h3>
      {Object.entries(value.calls).map(([name, call]) => (
        <details key={name} className="mb-2 rounded-lg border border-base-300 px-3 py-2">
          <summary className="cursor-pointer">
            <code className="font-mono text-xs">{name}</code>{' '}
            <span className="text-note text-ink-2">
              {works[name]?.label ?? ''} {call.method} {call.path}
            </span>
          </summary>
          <CallEditor call={call} work={works[name] ?? null} set={(patch) => setCall(name, patch)} />
          <div className="flex justify-end">
            <TakeAway
              label={`Remove the call ${name}`}
              onClick={() =>
                change({ calls: Object.fromEntries(Object.entries(value.calls).filter(([one]) => one !== name)) })
              }
            />
          </div>
        </details>
      ))}
      <div className="mb-4 flex flex-wrap items-center gap-2">
        {missing.map((name) => (
          <button key={name} type="button" className="btn btn-plain btn-xs" onClick={() => addCall(name)}>
            <Plus className="size-3.5" aria-hidden="true" />
            {works[name]!.label}
          </button>
        ))}
        <Bare
          tiny
          label="Name of another call"
          placeholder="find_contact"
          className="font-mono"
          style={{ width: 'auto', flex: '1 1 9rem' }}
          value={fresh}
          onChange={setFresh}
        />
        <button type="button" className="btn btn-plain btn-xs" disabled={!named} onClick={() => addCall(fresh)}>
          Add the call
        </button>
      </div>
      {offers && (
        <details className="mb-2 rounded-lg border border-base-300 px-3 py-2">
          <summary className="cursor-pointer">What workflows can use it for</summary>
          <div className="pt-2">
            <OffersEditor value={value} change={change} />
          </div>
        </details>
      )}
      <details className="mb-2 rounded-lg border border-base-300 px-3 py-2">
        <summary className="cursor-pointer">What it tells us by itself</summary>
        <div className="pt-2">
          <HearsEditor value={value.hears} meanings={meanings} onChange={(hears) => change({ hears })} />
        </div>
      </details>
    </>
  );
}
