import { useState } from 'react';
import type { TellingView } from '../../app/people/telling.ts';
import { call } from '../../client/call.ts';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { Line, Tick } from '../../components/fields.tsx';
import { NOTICE_KINDS, type NoticeKind } from '../../core/notices/notices.ts';

const WAYS = ['email', 'text'] as const;
const WORDS = { email: 'Email', text: 'Text' };

/** What one is told of by email and by text, and when not. */
export default function MyTelling({
  first,
  email,
  zoneName,
  needs,
}: {
  first: TellingView;
  email: string;
  zoneName: string;
  /** Whether what needs somebody is anything of theirs. */
  needs: boolean;
}) {
  const [{ phone, problems, ...telling }, setTelling] = useState(first);
  const { act, busy, told } = useAction();
  const { quiet, summaryAt } = telling;
  const change = (to: Partial<TellingView>) => setTelling((before) => ({ ...before, ...to }));
  const kinds = (Object.keys(NOTICE_KINDS) as NoticeKind[]).filter((kind) => kind !== 'needs' || needs);
  return (
    <section className="sheet-card mb-4 p-4" aria-label="What you are told of">
      <h2 className="mb-1 text-part">What you are told of</h2>
      <p className="mb-3 text-note text-ink-2">
        The first at once; what comes in the next five minutes is told together. On days you do not work you are told
        nothing. Emails go to {email}, texts to {phone || 'your phone, once you have said it below'}.
      </p>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          void act(async () => setTelling(await call('PUT', '/api/my-telling', telling)), 'Saved.');
        }}
      >
        <table className="mb-3">
          <thead>
            <tr className="text-note text-ink-2">
              <td />
              {WAYS.map((way) => (
                <th key={way} scope="col" className="px-3 font-medium">
                  {WORDS[way]}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {kinds.map((kind) => (
              <tr key={kind}>
                <th scope="row" className="py-1 pr-4 text-left font-normal">
                  {NOTICE_KINDS[kind]}
                </th>
                {WAYS.map((way) => (
                  <td key={way} className="text-center">
                    <input
                      type="checkbox"
                      className="checkbox checkbox-sm"
                      aria-label={`${NOTICE_KINDS[kind]}, by ${way}`}
                      checked={telling[way].includes(kind)}
                      onChange={({ target }) =>
                        change({
                          [way]: kinds.filter((one) => (one === kind ? target.checked : telling[way].includes(one))),
                        })
                      }
                    />
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
        {WAYS.map(
          (way) =>
            problems[way] !== '' && (
              <p key={way} className="notice warn mb-2">
                The last {way} did not go: {problems[way]}
              </p>
            ),
        )}
        <Tick
          label="Quiet hours: nothing is told, on my devices either; it waits until they are over"
          value={quiet !== null}
          onChange={(on) => change({ quiet: on ? { from: '21:00', to: '07:30' } : null })}
        />
        {quiet && (
          <div className="mb-2 ml-7 flex flex-wrap gap-3">
            <Line
              label="From"
              type="time"
              className="!w-32"
              small
              value={quiet.from}
              onChange={(from) => change({ quiet: { ...quiet, from } })}
            />
            <Line
              label="To"
              type="time"
              className="!w-32"
              small
              value={quiet.to}
              onChange={(to) => change({ quiet: { ...quiet, to } })}
            />
          </div>
        )}
        <Tick
          label="What waits for me, by email in the morning: appointments, tasks, people who wrote, new leads"
          value={summaryAt !== null}
          onChange={(on) => change({ summaryAt: on ? '08:00' : null })}
        />
        {summaryAt !== null && (
          <div className="mb-2 ml-7">
            <Line
              label="At"
              type="time"
              className="!w-32"
              small
              block="block w-fit"
              value={summaryAt}
              onChange={(at) => change({ summaryAt: at })}
            />
          </div>
        )}
        <p className="mb-3 text-note text-ink-2">
          Times are those of {zoneName}. There is no email on a morning when nothing waits.
        </p>
        <Notice told={told} className="mb-2" />
        <button type="submit" className="btn btn-plain btn-sm" disabled={busy}>
          Save what I am told of
        </button>
      </form>
    </section>
  );
}
