import BellRing from 'lucide-react/icons/bell-ring';
import Mail from 'lucide-react/icons/mail';
import MessageSquareText from 'lucide-react/icons/message-square-text';
import Moon from 'lucide-react/icons/moon';
import Radio from 'lucide-react/icons/radio';
import ShieldOff from 'lucide-react/icons/shield-off';
import TriangleAlert from 'lucide-react/icons/triangle-alert';
import { useEffect } from 'react';
import type { NeedView } from '../../app/today/needs-you.ts';
import type { RingRow, TodayView } from '../../app/today/today.ts';
import { call } from '../../client/call.ts';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { useQuery } from '../../client/use-query.ts';
import { ReplyTime } from '../../components/run-state.tsx';
import { durationWords, replySpeed } from '../../core/words/duration.ts';
import { clockTime, exactWords, type Place, whenWords } from '../../core/words/instant.ts';
import { CHANNEL_WORDS } from '../../core/workflow/channel.ts';
import { HourBars } from './HourBars.tsx';

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
    <main className="mx-auto grid max-w-[1400px] gap-5 p-5 lg:grid-cols-[1fr_356px]">
      <div className="min-w-0">
        <h1 className="sr-only">Today</h1>
        <div className="mb-4 flex flex-wrap items-end gap-x-8 gap-y-3">
          <div>
            <div
              className={`font-head text-[44px] leading-none font-bold ${today.middleReplyMs === null ? 'text-ink-3' : BIG[replySpeed(today.middleReplyMs)]}`}
              data-testid="middle-reply"
            >
              {today.middleReplyMs === null ? 'no reply yet' : durationWords(today.middleReplyMs)}
            </div>
            <div className="mt-1 text-[13px] text-ink-2">middle time to first reply today</div>
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
            <h2 className="text-[15px]">Leads by hour</h2>
            <span className="text-xs text-ink-2">Yesterday behind</span>
          </div>
          <HourBars today={today.byHour.today} yesterday={today.byHour.yesterday} hourNow={today.hourNow} />
        </section>
        <section className="sheet-card">
          <div className="flex items-center justify-between border-b border-base-300 px-4 py-2.5">
            <h2 className="text-[15px]">As they ring in</h2>
            <span className="pill good">
              <Radio className="size-3.5" aria-hidden="true" />
              Live
            </span>
          </div>
          {today.ring.length === 0 && (
            <p className="p-6 text-ink-2">
              Nobody has rung in yet.{' '}
              <a className="link" href="/sources">
                Set up a source
              </a>
              , then put a workflow live.
            </p>
          )}
          <ul data-testid="ring-list">
            {today.ring.map((row) => (
              <li key={row.runId} className="border-b border-base-300 last:border-0">
                <a
                  href={`/workflows/${row.workflowId}/log?run=${row.runId}`}
                  className="grid grid-cols-[56px_minmax(150px,1fr)_2fr_100px] items-center gap-3 px-4 py-2.5 hover:bg-base-200 max-md:grid-cols-[48px_1fr_auto]"
                >
                  <time className="text-[13px] text-ink-2" dateTime={row.at} title={exactWords(row.at, place)}>
                    {whenWords(row.at, now, place)}
                  </time>
                  <span className="min-w-0">
                    <span className="block truncate font-semibold">{row.name}</span>
                    <span className="block truncate text-xs text-ink-2">{row.sourceName}</span>
                  </span>
                  <Sent row={row} />
                  <span className="text-right font-semibold">
                    {row.replyMs === null ? (
                      <span className="text-xs font-normal text-ink-2">
                        {row.state === 'active'
                          ? 'under way'
                          : row.state === 'needs_you'
                            ? 'not answered'
                            : 'no reply due'}
                      </span>
                    ) : (
                      <ReplyTime ms={row.replyMs} />
                    )}
                  </span>
                </a>
              </li>
            ))}
          </ul>
        </section>
      </div>
      <aside className="min-w-0">
        <section className="sheet-card mb-4" id="needs-you">
          <h2 className="border-b border-base-300 px-4 py-2.5 text-[15px]">
            Needs you{today.needsCount > today.needs.length ? ` (${today.needsCount})` : ''}
          </h2>
          <Notice told={told} className="m-3 text-[13px]" />
          {today.needs.length === 0 && (
            <p className="p-4 text-ink-2">Nothing. Everything that came in has been dealt with.</p>
          )}
          <ul data-testid="needs-list">
            {today.needs.map((need) => (
              <li key={need.id} className="border-b border-base-300 px-4 py-3 last:border-0">
                <p className="font-semibold">{need.title}</p>
                <p className="mb-2 text-[13px] break-words text-ink-2">
                  {need.detail}{' '}
                  <time dateTime={need.createdAt} title={exactWords(need.createdAt, place)}>
                    {whenWords(need.createdAt, now, place)}.
                  </time>
                </p>
                <div className="flex flex-wrap gap-2">
                  {need.kind === 'maybe_refusal' ? (
                    <ReadRefusal
                      need={need}
                      answer={(body) => act(() => call('POST', `/api/needs/${need.id}/refusal`, body))}
                    />
                  ) : need.kind === 'number_shared' && need.otherLeadId ? (
                    <WhoseNumber
                      need={need}
                      answer={(body) => act(() => call('POST', `/api/needs/${need.id}/whose`, body))}
                    />
                  ) : (
                    <NeedLinks need={need} />
                  )}
                  <button
                    type="button"
                    className="btn btn-ghost btn-sm"
                    disabled={busy}
                    onClick={() => act(() => call('POST', `/api/needs/${need.id}/settle`))}
                  >
                    Mark as handled
                  </button>
                </div>
              </li>
            ))}
          </ul>
        </section>
        <section className="sheet-card">
          <h2 className="border-b border-base-300 px-4 py-2.5 text-[15px]">Live workflows</h2>
          {today.workflows.length === 0 && (
            <p className="p-4 text-ink-2">
              None is live.{' '}
              <a className="link" href="/workflows">
                See your workflows
              </a>
            </p>
          )}
          <ul>
            {today.workflows.map((workflow) => (
              <li key={workflow.id} className="border-b border-base-300 last:border-0">
                <a
                  href={`/workflows/${workflow.id}`}
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
      <div className="mt-1 text-[13px] text-ink-2">{label}</div>
    </div>
  );
}

/** What it can mean when somebody wrote something that sounds like a refusal. */
function ReadRefusal({
  need,
  answer,
}: {
  need: NeedView;
  answer(body: { means: 'no_more' | 'something_else' }): void;
}) {
  return (
    <>
      <button type="button" className="btn btn-plain btn-sm" onClick={() => answer({ means: 'no_more' })}>
        They want no more
      </button>
      <button type="button" className="btn btn-plain btn-sm" onClick={() => answer({ means: 'something_else' })}>
        They meant something else
      </button>
      <a className="btn btn-ghost btn-sm" href={`/leads/${need.leadId}`}>
        Open the lead
      </a>
    </>
  );
}

/** The three things it can be when one number is given under two names. */
function WhoseNumber({
  need,
  answer,
}: {
  need: NeedView;
  answer(body: { answer: 'same' | 'shared' | 'moved' }): void;
}) {
  const ways = [
    ['same', 'One person'],
    ['shared', 'They share it'],
    ['moved', 'It has changed hands'],
  ] as const;
  return (
    <>
      {ways.map(([way, label]) => (
        <button key={way} type="button" className="btn btn-plain btn-sm" onClick={() => answer({ answer: way })}>
          {label}
        </button>
      ))}
      <a className="btn btn-ghost btn-sm" href={`/leads/${need.leadId}`}>
        See who has it
      </a>
      <a className="btn btn-ghost btn-sm" href={`/leads/${need.otherLeadId}`}>
        See who gave it
      </a>
    </>
  );
}

function NeedLinks({ need }: { need: NeedView }) {
  if (need.workflowId && need.runId)
    return (
      <>
        {need.leadId && need.kind !== 'step_asks' && (
          <a className="btn btn-plain btn-sm" href={`/leads/${need.leadId}`}>
            Put right
          </a>
        )}
        <a className="btn btn-plain btn-sm" href={`/workflows/${need.workflowId}/log?run=${need.runId}`}>
          See what happened
        </a>
      </>
    );
  if (need.sourceId)
    return (
      <a className="btn btn-plain btn-sm" href={`/sources/${need.sourceId}`}>
        See what came in
      </a>
    );
  if (need.leadId)
    return (
      <a className="btn btn-plain btn-sm" href={`/leads/${need.leadId}`}>
        Open the lead
      </a>
    );
  return null;
}

function Sent({ row }: { row: RingRow }) {
  if (row.state === 'known') return <Note icon={<Moon className="size-4" />} text="Known person, updated" />;
  if (row.state === 'stopped') return <Note icon={<ShieldOff className="size-4" />} text={row.outcome} />;
  return (
    <span className="flex flex-wrap gap-x-3 gap-y-1 text-[13px] text-ink-2 max-md:hidden">
      {row.sent.map((one, i) => {
        const name = one.audience === 'team' ? 'Team told' : CHANNEL_WORDS[one.channel].one;
        const Icon = !one.ok
          ? TriangleAlert
          : one.audience === 'team'
            ? BellRing
            : one.channel === 'email'
              ? Mail
              : MessageSquareText;
        // biome-ignore lint/suspicious/noArrayIndexKey: the list of a run only ever grows at its end
        return <Note key={i} icon={<Icon className="size-4" />} text={one.ok ? name : `${name} refused`} />;
      })}
    </span>
  );
}

function Note({ icon, text }: { icon: React.ReactNode; text: string }) {
  return (
    <span className="flex items-center gap-1 text-[13px] text-ink-2">
      {icon}
      {text}
    </span>
  );
}
