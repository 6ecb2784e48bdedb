import Radio from 'lucide-react/icons/radio';
import { useEffect } from 'react';
import type { TodayView } from '../../app/today/today.ts';
import { call } from '../../client/call.ts';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { useQuery } from '../../client/use-query.ts';
import { within } from '../../client/within.ts';
import { Hint } from '../../components/Hint.tsx';
import { durationWords, replySpeed } from '../../core/words/duration.ts';
import { clockTime, type Place } from '../../core/words/instant.ts';
import { HourBars } from './HourBars.tsx';
import { NeedsList } from './NeedsList.tsx';
import { RingList } from './RingList.tsx';

interface Props {
  first: TodayView;
  place: Place;
  now: number;
}

const BIG = { good: 'text-success', fair: 'text-warning', late: 'text-error' };

/** Today: how fast leads are answered, who rings in, and what needs a person. */
export default function Today({ first, place, now: loadedAt }: Props) {
  const {
    value: today,
    at: now,
    again,
  } = useQuery(['today'], () => call('GET', '/api/today'), { first, at: loadedAt });
  const { act: does, busy, told } = useAction();
  const { needsCount } = today;
  // The bar above the page is no part of this island.
  useEffect(() => {
    const count = document.querySelector('[data-needs-count]');
    if (!count) return;
    count.textContent = String(needsCount);
    count.closest('a')?.setAttribute('aria-label', `${needsCount} need you`);
  }, [needsCount]);
  const act = (work: () => Promise<{ done: string }>) =>
    void does(
      async () => {
        const came = await work();
        await again();
        return came;
      },
      ({ done }) => done,
    );
  return (
    <main className="mx-auto grid max-w-[1400px] gap-5 p-5 grid-cols-1 lg:grid-cols-[1fr_356px]">
      <div className="min-w-0">
        <h1 className="sr-only">Today</h1>
        <div className="mb-4 flex flex-wrap items-end gap-x-8 gap-y-3">
          <div>
            <div
              className={`font-head text-figure leading-none font-bold ${today.middleReplyMs === null ? 'text-ink-3' : BIG[replySpeed(today.middleReplyMs)]}`}
              data-testid="middle-reply"
            >
              {today.middleReplyMs === null ? 'no reply yet' : durationWords(today.middleReplyMs)}
            </div>
            <div className="mt-1 text-note text-ink-2">median time to first reply today</div>
          </div>
          <Figure
            value={String(today.newLeads)}
            label={today.newLeads === 1 ? 'new lead' : 'new leads'}
            testid="new-leads"
          />
          <Figure value={`${today.answeredInFive} of ${today.answered}`} label="answered inside 5 minutes" />
          <Figure
            value={String(today.booked)}
            label={today.booked === 1 ? 'appointment booked' : 'appointments booked'}
          />
        </div>
        <section className="sheet-card mb-4 p-4">
          <div className="mb-2 flex justify-between">
            <h2 className="text-part">Leads by hour</h2>
            <span className="text-xs text-ink-2">Yesterday behind</span>
          </div>
          <HourBars today={today.byHour.today} yesterday={today.byHour.yesterday} hourNow={today.hourNow} />
        </section>
        <section className="sheet-card">
          <div className="flex items-center justify-between border-b border-base-300 px-4 py-2.5">
            <h2 className="text-part">As they ring in</h2>
            <span className="pill good">
              <Radio className="size-3.5" aria-hidden="true" />
              Live
            </span>
          </div>
          {today.ring.length === 0 && (
            <p className="p-6 text-ink-2">
              Nobody has rung in yet.{' '}
              <a className="link" href={within('/sources')}>
                Set up a source
              </a>
              , then put a workflow live.
            </p>
          )}
          <RingList rows={today.ring} now={now} place={place} />
        </section>
      </div>
      <aside className="min-w-0">
        <section className="sheet-card mb-4" id="needs-you">
          <div className="flex items-center gap-1 border-b border-base-300 px-4 py-2">
            <h2 className="text-part">
              Needs you{today.needsCount > today.needs.length ? ` (${today.needsCount})` : ''}
            </h2>
            <Hint term="needsYou" />
          </div>
          <Notice told={told} className="m-3 text-note" />
          {today.needs.length === 0 && (
            <p className="p-4 text-ink-2">Nothing. Everything that came in has been dealt with.</p>
          )}
          <NeedsList needs={today.needs} now={now} place={place} busy={busy} act={act} />
        </section>
        <section className="sheet-card">
          <h2 className="border-b border-base-300 px-4 py-2.5 text-part">Live workflows</h2>
          {today.workflows.length === 0 && (
            <p className="p-4 text-ink-2">
              None is live.{' '}
              <a className="link" href={within('/workflows')}>
                See your workflows
              </a>
            </p>
          )}
          <ul>
            {today.workflows.map((workflow) => (
              <li key={workflow.id} className="border-b border-base-300 last:border-0">
                <a
                  href={within(`/workflows/${workflow.id}`)}
                  className="flex justify-between gap-3 px-4 py-2.5 hover:bg-base-200"
                >
                  <span className="truncate font-semibold">{workflow.name}</span>
                  <span className="shrink-0 text-ink-2">{workflow.today} today</span>
                </a>
              </li>
            ))}
          </ul>
        </section>
        <p className="mt-3 px-1 text-xs text-ink-3">
          As of {clockTime(new Date(now).toISOString(), place)},{' '}
          {place.timeZone.split('/').at(-1)!.replaceAll('_', ' ')} time
        </p>
      </aside>
    </main>
  );
}

function Figure({ value, label, testid }: { value: string; label: string; testid?: string }) {
  return (
    <div>
      <div className="font-head text-2xl leading-none font-bold" data-testid={testid}>
        {value}
      </div>
      <div className="mt-1 text-note text-ink-2">{label}</div>
    </div>
  );
}
