import { useState } from 'react';
import type { Asked, ShareLook } from '../../app/share/look.ts';
import { call } from '../../client/call.ts';
import { goTo } from '../../client/go-to.ts';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { Choice } from '../../components/fields.tsx';
import { MomentList } from '../../components/MomentList.tsx';

const KIND_WORDS: Record<string, string> = {
  tag: 'tag',
  list: 'list',
  tab: 'sheet',
  pipeline: 'pipeline',
  segment: 'segment',
  'email-template': 'email template',
  'chat-form': 'chat form',
  'chat-template': 'chat template',
};
const ACCOUNT_WORDS = {
  text: 'a text carrier',
  email: 'a mail server',
  chat: 'a chat network',
  directory: 'a company directory',
};

/** What a file of workflows holds and needs, and taking it. */
export function TakeShare({
  file,
  look,
  button,
  mayTake = true,
}: {
  file: unknown;
  look: ShareLook;
  button: string;
  mayTake?: boolean;
}) {
  const [choices, setChoices] = useState<Record<string, string>>(() =>
    Object.fromEntries(look.asks.map((ask) => [ask.id, ask.chosen])),
  );
  const { act, busy, told } = useAction();
  const take = () =>
    act(async () => {
      const { workflows } = await call('POST', '/api/shares', { file, choices });
      await goTo(workflows.length === 1 ? `/workflows/${workflows[0]!.id}` : '/workflows');
    });
  const missing = look.accounts.filter(({ connected }) => !connected);
  return (
    <div className="grid items-start gap-5 lg:grid-cols-[1fr_340px]">
      <div className="grid gap-4">
        {look.workflows.map(({ name, sentences, moments }) => (
          <section key={name} className="sheet-card p-4" aria-label={name}>
            {look.workflows.length > 1 && <h2 className="mb-2 text-part">{name}</h2>}
            <MomentList moments={moments} />
            <h3 className="mt-4 mb-1 text-note text-ink-2">Read aloud</h3>
            {sentences.map((sentence) => (
              <p key={sentence} className="mb-1">
                {sentence}
              </p>
            ))}
          </section>
        ))}
      </div>
      <form
        className="sheet-card sticky top-4 p-4"
        aria-label="What it needs"
        onSubmit={(event) => {
          event.preventDefault();
          void take();
        }}
      >
        {look.asks.map((ask) => (
          <Choice
            key={ask.id}
            label={ask.kind === 'source' ? `Where leads come from: ${ask.name}` : `${ask.name} (${ask.about})`}
            value={choices[ask.id] ?? ''}
            options={optionsOf(ask)}
            onChange={(value) => setChoices((known) => ({ ...known, [ask.id]: value }))}
          />
        ))}
        {look.brings.length > 0 && (
          <>
            <h3 className="mb-1 font-semibold">Comes along</h3>
            <ul className="mb-3 text-note">
              {look.brings.map(({ kind, name, here }) => (
                <li key={`${kind} ${name}`} className="flex justify-between gap-2 py-0.5">
                  <span>
                    {KIND_WORDS[kind]} “{name}”
                  </span>
                  <span className="text-ink-2">{here ? 'is here already' : 'is made'}</span>
                </li>
              ))}
            </ul>
          </>
        )}
        {missing.length > 0 && (
          <p className="notice mb-3">
            It sends by {missing.map(({ by }) => ACCOUNT_WORDS[by]).join(' and ')}, which is not connected yet. You can
            take it now and{' '}
            <a href="/connections" className="link">
              connect
            </a>{' '}
            before it goes live.
          </p>
        )}
        {look.workflows.some(({ taken }) => taken) && (
          <p className="mb-3 text-note text-ink-2">There is one of this name already: the new one gets a number.</p>
        )}
        <Notice told={told} className="mb-2" />
        <button type="submit" className="btn btn-primary btn-sm w-full" disabled={busy || !mayTake}>
          {button}
        </button>
        <p className="mt-2 text-note text-ink-2">
          {mayTake
            ? 'It becomes a draft. Nothing is sent before you put it live.'
            : 'You can look at this business but not change it.'}
        </p>
      </form>
    </div>
  );
}

const optionsOf = ({ canMake, options, kind }: Asked): [string, string][] => [
  ...(canMake ? [['make', 'Make it now'] as [string, string]] : []),
  ...options.map(({ id, name }): [string, string] => [id, name]),
  ['', kind === 'source' && !canMake && options.length === 0 ? 'None here yet: choose later' : 'Choose later'],
];
