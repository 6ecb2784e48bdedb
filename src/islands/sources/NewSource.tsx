import { useEffect, useState } from 'react';
import type { SourceView } from '../../app/sources.ts';
import { KindIcon } from '../../components/icons.tsx';
import type { AdFormEntry } from '../../gateways/ad-platform.ts';
import { sourceKinds } from '../../sources/registry.ts';
import { call, messageOf } from '../call.ts';

/** First what kind, then exactly what to listen to. */
export default function NewSource({ adAccounts }: { adAccounts: { id: string; name: string }[] }) {
  const [kind, setKind] = useState<string>('ad-form');
  return (
    <>
      <fieldset className="mb-4 grid grid-cols-2 gap-3">
        <legend className="sr-only">Kind of source</legend>
        {[...sourceKinds.values()].map((one) => (
          <label
            key={one.kind}
            className={`sheet-card flex cursor-pointer gap-3 p-4 ${kind === one.kind ? 'outline-2 outline-primary' : ''}`}
          >
            <input
              type="radio"
              className="radio radio-sm mt-0.5"
              name="kind"
              checked={kind === one.kind}
              onChange={() => setKind(one.kind)}
            />
            <span>
              <span className="flex items-center gap-2 font-semibold">
                <KindIcon name={one.icon} />
                {one.label}
              </span>
              <span className="text-[13px] text-ink-2">{one.about}</span>
            </span>
          </label>
        ))}
      </fieldset>
      {kind === 'ad-form' ? <AdFormSetup accounts={adAccounts} /> : <WebhookSetup />}
    </>
  );
}

const made = (source: SourceView) => location.assign(`/sources/${source.id}`);

function AdFormSetup({ accounts }: { accounts: { id: string; name: string }[] }) {
  const [account, setAccount] = useState(accounts[0]?.id ?? '');
  const [forms, setForms] = useState<AdFormEntry[] | null>(null);
  const [formId, setFormId] = useState('');
  const [search, setSearch] = useState('');
  const [problem, setProblem] = useState('');
  useEffect(() => {
    if (!account) return;
    let gone = false;
    call<AdFormEntry[]>('GET', `/api/connections/${account}/forms`).then(
      (list) => {
        if (!gone) {
          setForms(list);
          setProblem('');
        }
      },
      (error) => {
        if (!gone) setProblem(messageOf(error));
      },
    );
    return () => {
      gone = true;
    };
  }, [account]);
  if (accounts.length === 0)
    return (
      <p className="notice">
        No ad account is connected yet.{' '}
        <a className="link" href="/connections">
          Connect one
        </a>
        , then come back.
      </p>
    );
  const shown = forms?.filter((form) => `${form.name} ${form.page}`.toLowerCase().includes(search.toLowerCase())) ?? [];
  return (
    <form
      className="sheet-card p-4"
      onSubmit={(event) => {
        event.preventDefault();
        call<SourceView>('POST', '/api/sources', { kind: 'ad-form', connectionId: account, formId }).then(
          made,
          (error) => setProblem(messageOf(error)),
        );
      }}
    >
      <label className="mb-3 block">
        <span className="field-label">Ad account</span>
        <select
          className="select"
          value={account}
          onChange={(event) => {
            setAccount(event.target.value);
            setForms(null);
            setFormId('');
          }}
        >
          {accounts.map(({ id, name }) => (
            <option key={id} value={id}>
              {name}
            </option>
          ))}
        </select>
      </label>
      <span className="field-label" id="which-form">
        Which form
      </span>
      {(forms?.length ?? 0) > 6 && (
        <input
          className="input input-sm mb-2"
          aria-label="Search forms"
          placeholder="Search"
          value={search}
          onChange={(event) => setSearch(event.target.value)}
        />
      )}
      {!forms && !problem && <p className="text-ink-2">Asking the ad platform …</p>}
      <ul className="mb-3 max-h-72 overflow-y-auto" aria-labelledby="which-form">
        {shown.map((form) => (
          <li key={form.id}>
            <label className="flex cursor-pointer items-center gap-3 rounded-lg px-2 py-2 hover:bg-base-200">
              <input
                type="radio"
                className="radio radio-sm"
                name="form"
                checked={formId === form.id}
                onChange={() => setFormId(form.id)}
              />
              <span className="grow">
                <span className="font-semibold">{form.name}</span> <span className="text-ink-2">{form.page}</span>
              </span>
              <span className={`pill ${form.live ? 'good' : 'warn'}`}>
                {form.live ? 'Live' : 'Not live: nobody can fill it in'}
              </span>
            </label>
          </li>
        ))}
      </ul>
      {problem && (
        <p className="notice bad mb-3" role="alert">
          {problem}
        </p>
      )}
      <button className="btn btn-primary" type="submit" disabled={formId === ''}>
        Listen to this form
      </button>
    </form>
  );
}

function WebhookSetup() {
  const [name, setName] = useState('');
  const [signed, setSigned] = useState(false);
  const [problem, setProblem] = useState('');
  return (
    <form
      className="sheet-card p-4"
      onSubmit={(event) => {
        event.preventDefault();
        call<SourceView>('POST', '/api/sources', { kind: 'webhook', name, signed }).then(made, (error) =>
          setProblem(messageOf(error)),
        );
      }}
    >
      <label className="mb-3 block">
        <span className="field-label">Name of the source</span>
        <input
          className="input"
          value={name}
          required
          maxLength={100}
          placeholder="Open day sign-in"
          onChange={(event) => setName(event.target.value)}
        />
      </label>
      <label className="mb-3 flex items-start gap-2">
        <input
          type="checkbox"
          className="checkbox checkbox-sm mt-0.5"
          checked={signed}
          onChange={(event) => setSigned(event.target.checked)}
        />
        <span>
          Take only what is signed
          <span className="block text-[13px] text-ink-2">
            The application must sign in the Standard Webhooks way. Without a signature, whoever knows the address can
            send.
          </span>
        </span>
      </label>
      {problem && (
        <p className="notice bad mb-3" role="alert">
          {problem}
        </p>
      )}
      <button className="btn btn-primary" type="submit">
        Make an address for it
      </button>
    </form>
  );
}
