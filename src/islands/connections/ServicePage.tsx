import { useState } from 'react';
import type { ServiceView } from '../../app/account/service-calls.ts';
import { call } from '../../client/call.ts';
import { goTo } from '../../client/go-to.ts';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { Choice, Line } from '../../components/fields.tsx';
import { readDescription } from '../../core/described/check.ts';
import { Description } from '../../core/described/description.ts';
import { meaningsOf } from '../../core/described/meanings.ts';
import { type DescribedKind, worksOf } from '../../core/described/works.ts';
import { DescriptionEditor } from './DescriptionEditor.tsx';
import { TryCall } from './TryCall.tsx';

interface Props {
  /** Null while it is being made. */
  first: ServiceView | null;
  kinds: readonly (readonly [DescribedKind, string])[];
  /** Where a service's own page sends people back to. */
  backTo: string;
}

const blank = () =>
  Description.parse({
    format: 'pine-bell-connection',
    version: 1,
    name: 'New description',
    address: '{{ account.address }}',
    asks: [
      { key: 'address', label: 'Address' },
      { key: 'key', label: 'Key of the account', secret: true },
    ],
    signIn: { way: 'bearer', token: '{{ account.key }}' },
  });

/** One service: what is filled in for it, how it is called, and a try of each call. */
export default function ServicePage({ first, kinds, backTo }: Props) {
  const [kind, setKind] = useState<DescribedKind>((first?.kind as DescribedKind) ?? 'service');
  const [name, setName] = useState(first?.name ?? '');
  const [sender, setSender] = useState(first?.settings.sender ?? '');
  const [values, setValues] = useState<Record<string, string>>(
    first ? { ...(first.shipped ? { address: first.settings.address } : {}), ...first.settings.values } : {},
  );
  const [description, setDescription] = useState<Description>(first?.description ?? blank());
  const [seen, setSeen] = useState(first?.seen ?? '');
  const [saved, setSaved] = useState(first?.description ?? null);
  const { act, busy, told, tell } = useAction();
  const works = worksOf(kind);
  const save = (untried: boolean) =>
    act(
      async () => {
        const senders = first?.settings.senders?.join(', ') ?? '';
        // One that is spoken to as it ships goes on so until its description is changed.
        const asShipped = first?.shipped && JSON.stringify(description) === JSON.stringify(first.description);
        const sent = {
          ...{ kind, name, sender, senders, untried },
          ...(asShipped ? { address: values.address ?? '', secret: values.key ?? '' } : { description, values }),
        };
        if (!first) {
          const made = await call('POST', '/api/connections', sent);
          await goTo(`/connections/${made.id}`);
          return made.found;
        }
        const kept = await call('PUT', `/api/connections/${first.id}`, sent, seen);
        setSeen(kept.seen);
        setSaved(description);
        return kept.found;
      },
      (found) => found ?? 'Kept. It could not be tried yet.',
    );
  const takeFile = (file: File | undefined) =>
    void act(async () => {
      if (!file) return;
      const written = parse(await file.text());
      // The file of a carrier is a carrier's, whatever was chosen before it was taken.
      const fits = first ? undefined : kinds.find(([one]) => readDescription(written, one).ok)?.[0];
      const meant = readDescription(written, kind).ok ? kind : (fits ?? kind);
      const read = readDescription(written, meant);
      if (!read.ok) throw new Error(read.problems.slice(0, 5).join(' '));
      setKind(meant);
      setDescription(read.description);
      if (name === '') setName(read.description.name);
      tell(`Taken from the file: ${read.description.about || read.description.name}`, true);
    });
  const point = (one: string, label: string, path: string) => {
    const of = description.calls[one];
    if (!of) return;
    // What is read of a list is read of each of its items.
    const first = `${of.items}[0]`;
    const at = of.items !== '' && path.startsWith(first) ? `$${path.slice(first.length)}` : path;
    const key =
      label
        .toLowerCase()
        .replace(/[^a-z0-9_]+/g, '_')
        .replace(/^[^a-z]+/, '') || 'value';
    setDescription({
      ...description,
      calls: { ...description.calls, [one]: { ...of, reads: { ...of.reads, [key]: { path: at, as: 'text' } } } },
    });
    tell(`Read from now on as “${key}”: ${at}. Save to keep it.`, true);
  };
  const file = `data:application/json,${encodeURIComponent(JSON.stringify(description, null, 2))}`;
  return (
    <>
      <form
        className="sheet-card mb-4 p-4"
        aria-label="The account"
        onSubmit={(event) => {
          event.preventDefault();
          void save(false);
        }}
      >
        <h2 className="mb-2 text-part">The account</h2>
        <div className="grid gap-x-4 md:grid-cols-2">
          {!first && <Choice label="What it is" small value={kind} options={kinds} onChange={setKind} />}
          <Line label="Your name for it" small maxLength={100} value={name} onChange={setName} />
          {(kind === 'text_carrier' || kind === 'chat_network') && (
            <Line
              label={kind === 'text_carrier' ? 'Texts come from' : 'Your number there'}
              small
              maxLength={100}
              value={sender}
              onChange={setSender}
            />
          )}
          {description.asks.map(({ key, label, secret, help }) => (
            <Line
              key={key}
              label={`${label || key}${secret && first?.filled.includes(key) ? ' (kept; type a new one to replace it)' : ''}`}
              small
              maxLength={8000}
              {...(secret ? { type: 'password' } : {})}
              placeholder={help}
              value={values[key] ?? ''}
              onChange={(text) => setValues({ ...values, [key]: text })}
            />
          ))}
        </div>
        {first?.reportAddress && (
          <p className="mb-3 text-note text-ink-2">
            What it tells us goes to <code className="font-mono text-xs break-all">{first.reportAddress}</code>
          </p>
        )}
        <details className="mb-3 rounded-lg border border-base-300 px-3 py-2" open={!first && kind === 'service'}>
          <summary className="cursor-pointer font-semibold">How it is called</summary>
          <div className="mt-2">
            <div className="mb-3 flex flex-wrap items-center gap-2">
              <label className="btn btn-plain btn-sm">
                Take a description from a file
                <input
                  type="file"
                  accept="application/json,.json"
                  className="sr-only"
                  onChange={(event) => takeFile(event.target.files?.[0])}
                />
              </label>
              <a
                className="btn btn-ghost btn-sm"
                href={file}
                download={`${description.name.replace(/[^\w -]+/g, '') || 'description'}.json`}
              >
                Save it as a file
              </a>
              <span className="text-note text-ink-2">A file holds no key and nothing you filled in.</span>
            </div>
            <DescriptionEditor
              value={description}
              works={works}
              meanings={meaningsOf(kind)}
              offers={kind === 'service'}
              backTo={backTo}
              onChange={setDescription}
            />
          </div>
        </details>
        <Notice told={told} className="mb-3" />
        <div className="flex gap-2">
          <button type="submit" className="btn btn-primary btn-sm" disabled={busy || name.trim() === ''}>
            {busy ? 'Trying the key …' : first ? 'Save the connection' : 'Connect it'}
          </button>
          {told?.code === 'not-tried' && (
            <button type="button" className="btn btn-plain btn-sm" disabled={busy} onClick={() => void save(true)}>
              Keep it all the same
            </button>
          )}
        </div>
      </form>
      {first && saved && (
        <TryCall
          id={first.id}
          description={saved}
          givenOf={(one) => givenOf(saved, works[one]?.given, one)}
          onPoint={point}
        />
      )}
    </>
  );
}

/** What a call is given, with its words: by its kind, and by what workflows fill in. */
function givenOf(
  { records, lookUps }: Description,
  given: Record<string, string> | undefined,
  name: string,
): Record<string, string> {
  const taken = [
    ...records
      .filter(({ find, create, update }) => [find, create, update].includes(name))
      .flatMap(({ takes }) => takes),
    ...lookUps.filter(({ call: one }) => one === name).flatMap(({ takes }) => takes),
  ].map(({ key, label }): [string, string] => [key, label]);
  const updates = records.some(({ update }) => update === name) ? { id: 'Its name there' } : {};
  return { ...given, ...Object.fromEntries(taken), ...updates };
}

function parse(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
}
