import { type FormEvent, useState } from 'react';
import type { SentenceView } from '../../app/workflows/from-sentence.ts';
import { call } from '../../client/call.ts';
import { goTo } from '../../client/go-to.ts';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { useDebounced } from '../../client/use-debounced.ts';
import { useQuery } from '../../client/use-query.ts';
import { Choice, Line } from '../../components/fields.tsx';
import { MomentList } from '../../components/MomentList.tsx';
import { SaidWords } from './SaidWords.tsx';

const ASKS: Record<SentenceView['asks'][number]['kind'], string> = {
  source: 'Which source is',
  list: 'Which list is',
  tag: 'Which tag is',
  colleague: 'Who is',
  tab: 'Which sheet is',
  stage: 'Which stage is',
  template: 'Which template is',
  form: 'Which chat form is',
  field: 'Which field is',
};

/** A workflow in somebody's own words: read as they are typed, with what was understood, what has to be said, and what was not. */
export default function FromSentence({ mayMake, example }: { mayMake: boolean; example: string }) {
  const [text, setText] = useState('');
  const [answers, setAnswers] = useState<Record<string, string>>({});
  const [name, setName] = useState<string | null>(null);
  const { act, busy, told } = useAction();
  const said = useDebounced(text.trim(), 350);
  const key = JSON.stringify(answers);
  const read = useQuery(
    ['sentence', said, key],
    async () => (said === '' ? null : call('POST', '/api/sentences/read', { text: said, answers })),
    { first: null as SentenceView | null, at: 0, live: false },
  );
  const view = said === '' ? null : read.value;
  const called = name ?? view?.name ?? '';
  const make = (event: FormEvent) => {
    event.preventDefault();
    void act(async () => {
      const { id } = await call('POST', '/api/sentences', { text: said, answers, name: called || 'In my own words' });
      await goTo(`/workflows/${id}`);
    });
  };
  return (
    <form onSubmit={make}>
      <label className="mb-2 block">
        <span className="sr-only">Say what is to happen</span>
        <textarea
          className="textarea min-h-20"
          rows={3}
          maxLength={3000}
          placeholder={example}
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
      </label>
      {text === '' && (
        <button type="button" className="btn btn-ghost btn-xs" onClick={() => setText(example)}>
          Try this one
        </button>
      )}
      <Notice told={told ?? (read.problem ? { text: read.problem, good: false } : null)} className="mb-2" />
      {view && (
        <div className="mt-2 grid items-start gap-5 lg:grid-cols-[1fr_320px]" data-testid="sentence">
          <div className="grid gap-3">
            <SaidWords text={said} marks={view.marks} unread={view.unread} />
            <MomentList moments={view.moments} />
            <div>
              <h3 className="mb-1 text-note text-ink-2">Read back</h3>
              {view.aloud.map((sentence) => (
                <p key={sentence} className="mb-0.5">
                  {sentence}
                </p>
              ))}
            </div>
          </div>
          <div>
            {view.asks.map((ask) => (
              <Choice
                key={ask.id}
                label={
                  ask.said === ''
                    ? ask.kind === 'source'
                      ? 'Where do leads come from?'
                      : `${ASKS[ask.kind]} meant?`
                    : `${ASKS[ask.kind]} “${ask.said}”?`
                }
                value={answers[ask.id] ?? ''}
                options={[['', 'Choose later'], ...ask.options.map((one) => [one.id, one.name] as const)]}
                onChange={(id) => setAnswers((known) => ({ ...known, [ask.id]: id }))}
              />
            ))}
            {view.unread.length > 0 && (
              <p className="notice warn mb-3">
                Not understood: {view.unread.map(({ from, to }) => `“${said.slice(from, to)}”`).join(', ')}. Say it
                another way, or add it on the run sheet.
              </p>
            )}
            <Line label="Name of the workflow" small value={called} maxLength={120} onChange={setName} />
            <button type="submit" className="btn btn-primary btn-sm w-full" disabled={busy || !view.whole || !mayMake}>
              Make this draft
            </button>
            <p className="mt-2 text-note text-ink-2">
              {mayMake
                ? 'Nothing is sent before you have read its messages and put it live.'
                : 'You can look at this business but not change it.'}
            </p>
          </div>
        </div>
      )}
    </form>
  );
}
