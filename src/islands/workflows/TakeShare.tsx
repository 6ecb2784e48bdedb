import { useState } from 'react';
import type { Asked, ShareLook } from '../../app/share/look.ts';
import { call } from '../../client/call.ts';
import { goTo } from '../../client/go-to.ts';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { within } from '../../client/within.ts';
import { Choice } from '../../components/fields.tsx';
import { MomentList } from '../../components/MomentList.tsx';
import { capital } from '../../core/workflow/read-aloud.ts';

const KINDS: Record<string, { one: string; page?: string }> = {
  tag: { one: 'tag' },
  list: { one: 'list', page: '/lists/' },
  tab: { one: 'sheet' },
  pipeline: { one: 'pipeline', page: '/pipeline/' },
  segment: { one: 'segment' },
  'email-template': { one: 'email template', page: '/messages/templates/' },
  'chat-form': { one: 'chat form', page: '/messages/chat-forms/' },
  'chat-template': { one: 'chat template', page: '/messages/chat-templates/' },
  source: { one: 'source', page: '/sources/' },
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
      const { workflows, made } = await call('POST', '/api/shares', { file, choices });
      await goTo(placeOf(workflows, made));
    });
  const alone = look.workflows.length === 0;
  // A source has its own question; what it holds is shown beside.
  const brings = look.brings.filter(({ kind }) => kind !== 'source');
  const nothingNew =
    alone &&
    look.brings.every(({ here }) => here) &&
    look.asks.every((ask) => choices[ask.id] !== 'make' && (ask.canMake || choices[ask.id] === ''));
  const missing = look.accounts.filter(({ connected }) => !connected);
  return (
    <div className="grid items-start gap-5 lg:grid-cols-[1fr_340px]">
      <div className="grid gap-4">
        {alone &&
          look.brings.map(({ kind, name, lines }) => (
            <section key={`${kind} ${name}`} className="sheet-card p-4" aria-label={name}>
              <h2 className="mb-2 text-part">
                {capital(KINDS[kind]!.one)} “{name}”
              </h2>
              <ul className="list-disc pl-5">
                {lines.map((line, i) => (
                  // biome-ignore lint/suspicious/noArrayIndexKey: lines of one text stand in its order
                  <li key={`${i} ${line}`}>{line}</li>
                ))}
              </ul>
            </section>
          ))}
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
            label={
              ask.kind === 'colleague'
                ? `${ask.name} (${ask.about})`
                : alone
                  ? ask.canMake
                    ? ask.name
                    : `Whose lead card it becomes: ${ask.name}`
                  : `Where leads come from: ${ask.name}`
            }
            value={choices[ask.id] ?? ''}
            options={optionsOf(ask)}
            onChange={(value) => setChoices((known) => ({ ...known, [ask.id]: value }))}
          />
        ))}
        {brings.length > 0 && (
          <>
            <h3 className="mb-1 font-semibold">Comes along</h3>
            <ul className="mb-3 text-note">
              {brings.map(({ kind, name, here, taken }) => (
                <li key={`${kind} ${name}`} className="flex justify-between gap-2 py-0.5">
                  <span>
                    {KINDS[kind]!.one} “{name}”
                  </span>
                  <span className="text-right text-ink-2">
                    {here ? 'is here already' : taken ? 'is made, with a number behind its name' : 'is made'}
                  </span>
                </li>
              ))}
            </ul>
          </>
        )}
        {missing.length > 0 && (
          <p className="notice mb-3">
            It sends by {missing.map(({ by }) => ACCOUNT_WORDS[by]).join(' and ')}, which is not connected yet. You can
            take it now and{' '}
            <a href={within('/connections')} className="link">
              connect
            </a>{' '}
            before it goes live.
          </p>
        )}
        {look.workflows.some(({ taken }) => taken) && (
          <p className="mb-3 text-note text-ink-2">There is one of this name already: the new one gets a number.</p>
        )}
        <Notice told={told} className="mb-2" />
        <button type="submit" className="btn btn-primary btn-sm w-full" disabled={busy || !mayTake || nothingNew}>
          {nothingNew ? 'All of it is here already' : button}
        </button>
        <p className="mt-2 text-note text-ink-2">
          {mayTake
            ? alone
              ? 'Nothing is sent by it, and nothing that is here is changed but a lead card you choose.'
              : 'It becomes a draft. Nothing is sent before you put it live.'
            : 'You can look at this business but not change it.'}
        </p>
      </form>
    </div>
  );
}

/** Where what was taken stands: its own page, where it is one. */
function placeOf(workflows: readonly { id: string }[], made: readonly { kind: string; id: string }[]): string {
  if (workflows.length > 0) return workflows.length === 1 ? `/workflows/${workflows[0]!.id}` : '/workflows';
  const [last] = made.slice(-1);
  const page = last && KINDS[last.kind]?.page;
  return page ? page + last.id : '/sheets';
}

const optionsOf = ({ canMake, options, kind }: Asked): [string, string][] => [
  ...(canMake ? [['make', 'Make it now'] as [string, string]] : []),
  ...options.map(({ id, name }): [string, string] => [id, name]),
  ['', kind === 'source' && !canMake && options.length === 0 ? 'None here yet: choose later' : 'Choose later'],
];
