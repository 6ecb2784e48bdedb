import { Fragment, useState } from 'react';
import type { MessageRow, StepResultsView } from '../../app/results/step-results.ts';
import { call } from '../../client/call.ts';
import { Notice } from '../../client/Notice.tsx';
import { useQuery } from '../../client/use-query.ts';
import { ChannelIcon } from '../../components/ChannelIcon.tsx';
import type { Place } from '../../core/words/instant.ts';
import { TRIAL_GOALS } from '../../core/workflow/trial.ts';
import { Choose, DaysChoice } from './DaysChoice.tsx';
import { countWords, shareWords } from './figures.ts';
import { useAddress } from './use-address.ts';
import { Wide } from './Wide.tsx';

const WITHIN = { '1': '1 day', '3': '3 days', '7': '7 days', '14': '14 days', '30': '30 days' };

/** What each message of a workflow brings, text beside text, and how its trials stand. */
export default function StepResults({
  workflowId,
  first,
  search,
  place,
  now,
}: {
  workflowId: string;
  first: StepResultsView;
  search: string;
  place: Place;
  now: number;
}) {
  const [asked, change] = useAddress(search);
  const { value: view, problem } = useQuery(
    ['step-results', workflowId, asked],
    () => call('GET', `/api/workflows/${workflowId}/results?${asked}`),
    { first, at: now },
  );
  const [opened, setOpened] = useState<string | null>(null);
  return (
    <>
      <div className="mb-3 flex flex-wrap items-end gap-x-3 gap-y-2">
        <DaysChoice period={view.period} days={view.days} change={change} />
        <Choose
          label="Counts within"
          value={String(view.within)}
          options={WITHIN}
          choose={(within) => change({ within })}
        />
      </div>
      <Notice told={problem ? { text: problem, good: false } : null} className="mb-3" />
      {view.trials.map(({ trial, stepId, name, a, b, says, verdict }) => (
        <section key={stepId} className="sheet-card mb-4 p-4">
          <h2 className="mb-1 text-part">Two versions of “{name}”</h2>
          <p className={verdict.is === 'decided' && verdict.better ? 'mb-2 font-medium text-success' : 'mb-2'}>
            {says}
          </p>
          <p className="text-note text-ink-2">
            Of A {countWords(a.of, place.locale)} and of B {countWords(b.of, place.locale)} of{' '}
            {countWords(trial.perHalf, place.locale)} people each; what counts is that {TRIAL_GOALS[trial.goal]} within{' '}
            {trial.days} days. The number was set beforehand, and it is looked at once.
          </p>
        </section>
      ))}
      <section className="sheet-card p-4">
        <h2 className="mb-1 text-part">What each message brings</h2>
        <p className="mb-2 text-ink-2">
          What happens within {view.within === 1 ? 'a day' : `${view.within} days`} after a message is counted with it.
          That it came after does not say that it came of it.
        </p>
        {view.rows.length === 0 ? (
          <p className="text-ink-2">Nothing was sent in these days.</p>
        ) : (
          <Wide what="What each message brings">
            <table className="table table-sm results-table w-full">
              <thead>
                <tr>
                  <th scope="col" className="text-left">
                    Message
                  </th>
                  <th scope="col">Sent</th>
                  <th scope="col">Delivered</th>
                  <th scope="col">Opened</th>
                  <th scope="col">Followed</th>
                  <th scope="col">Replied</th>
                  <th scope="col">Booked after it</th>
                  <th scope="col">Left</th>
                </tr>
              </thead>
              <tbody>
                {view.rows.map((row) => {
                  const key = `${row.stepId} ${row.channel} ${row.trialId} ${row.version}`;
                  return (
                    <Fragment key={key}>
                      <Line
                        row={row}
                        locale={place.locale}
                        open={opened === key}
                        toggle={() => setOpened(opened === key ? null : key)}
                      />
                      {opened === key && (
                        <tr>
                          <td colSpan={8} className="text-left!">
                            {row.subject && <p className="font-semibold">{row.subject}</p>}
                            <p className="max-w-3xl whitespace-pre-line">{row.text}</p>
                          </td>
                        </tr>
                      )}
                    </Fragment>
                  );
                })}
              </tbody>
            </table>
          </Wide>
        )}
      </section>
    </>
  );
}

function Line({ row, locale, open, toggle }: { row: MessageRow; locale: string; open: boolean; toggle: () => void }) {
  const of = (n: number) => (
    <>
      {countWords(n, locale)} <span className="text-xs text-ink-3">{shareWords(n / row.sent, locale, 0)}</span>
    </>
  );
  const none = <span className="text-ink-3">–</span>;
  return (
    <tr>
      <th scope="row" className="max-w-96 text-left">
        <button
          type="button"
          className="flex max-w-full cursor-pointer items-center gap-2 text-left font-medium"
          aria-expanded={open}
          title="Show how it reads"
          onClick={toggle}
        >
          <ChannelIcon channel={row.channel} />
          <span className="truncate">{row.name}</span>
          {row.version && <span className="pill shrink-0">Version {row.version.toUpperCase()}</span>}
        </button>
      </th>
      <td className="tabular-nums">{countWords(row.sent, locale)}</td>
      <td className="tabular-nums">{row.delivered === null ? none : of(row.delivered)}</td>
      <td
        className="tabular-nums"
        title={row.openedByMachines > 0 ? `And by machines that look at mail: ${row.openedByMachines}` : ''}
      >
        {row.opened === null ? none : of(row.opened)}
        {row.openedByMachines > 0 && (
          <span className="block text-xs text-ink-3">and {row.openedByMachines} by machines</span>
        )}
      </td>
      <td className="tabular-nums">{of(row.followed)}</td>
      <td className="tabular-nums">{of(row.replied)}</td>
      <td className="tabular-nums">
        {of(row.booked)}
        {row.bookedRange && (
          <span className="block text-xs text-ink-3">
            {Math.round(row.bookedRange.low * 100)} to {Math.round(row.bookedRange.high * 100)}
          </span>
        )}
      </td>
      <td className="tabular-nums">{of(row.left)}</td>
    </tr>
  );
}
