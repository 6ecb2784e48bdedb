import Check from 'lucide-react/icons/check';
import RotateCcw from 'lucide-react/icons/rotate-ccw';
import { Fragment, useRef, useState } from 'react';
import { v7 as uuidv7 } from 'uuid';
import type { MomentView, RunView, StepView } from '../../app/workflows/log.ts';
import { call } from '../../client/call.ts';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { KindIcon } from '../../components/icons.tsx';
import { StatePill } from '../../components/run-state.tsx';
import { whereWords } from '../../core/source/where-from.ts';
import { durationWords } from '../../core/words/duration.ts';
import { clockSeconds, clockTime, exactWords, type Place, whenWords } from '../../core/words/instant.ts';
import { LANE_LABELS, type Place as StepPlace } from '../../core/workflow/definition.ts';
import { changeLabel } from '../../core/workflow/plan.ts';
import { StepDetail } from './StepDetail.tsx';

interface Props {
  run: RunView;
  place: Place;
  /** Something was done; the id of the run to show next, if it is another. */
  onDone: (next?: string) => void;
}

const COLOURS: Record<StepPlace, string> = {
  first: 'bg-slate-line',
  lead: 'bg-brass-line',
  record: 'bg-pine-line',
  team: 'bg-mulberry-line',
};
const HEADS: Record<StepPlace, string> = {
  first: 'text-ink-2',
  lead: 'text-accent',
  record: 'text-primary',
  team: 'text-mulberry',
};

/** One run: bars in time, what came in beside what it became, the exact messages and the answers to them. */
export function RunDetail({ run, place, onDone }: Props) {
  const [stepId, setStepId] = useState<string | null>(null);
  const { act, busy, told } = useAction();
  const [asking, setAsking] = useState<string | null>(null);
  // One key for each time somebody means it: pressed twice, it is done once.
  const key = useRef(uuidv7());
  const shown =
    run.steps.find((step) => step.stepId === stepId) ??
    run.steps.find((step) => step.state === 'refused' || step.state === 'ask') ??
    run.steps.find((step) => step.plan?.does === 'send');
  const attempt = (work: () => Promise<{ runId?: string; done: string }>) => {
    setAsking(null);
    void act(
      async () => {
        const made = await work();
        if (made.runId) key.current = uuidv7();
        onDone(made.runId);
        return made.done;
      },
      (done) => done,
    );
  };
  const again = (step: StepView, sendAgain: boolean) =>
    attempt(() =>
      call('POST', `/api/workflows/${run.workflowId}/runs/${run.id}/again`, {
        stepId: step.stepId,
        sendAgain,
        key: key.current,
      }),
    );
  const repeatable =
    shown && (shown.place !== 'first' || shown.state === 'refused') && run.state !== 'active' ? shown : null;
  const sent = (step: StepView) =>
    step.place === 'first' ? run.steps.some((one) => one.place !== 'first' && wasSent(one)) : wasSent(step);
  return (
    <>
      <div className="mb-2.5 flex flex-wrap items-center gap-2">
        <h2 className="text-lg">
          <a className="hover:underline" href={`/leads/${run.leadId}`}>
            {run.name}
          </a>
        </h2>
        <StatePill state={run.state} outcome={run.outcome} />
        {run.outcome && run.state !== 'stopped' && <span className="text-[13px] text-ink-2">{run.outcome}</span>}
        <span className="grow" />
        {repeatable && (
          <button
            type="button"
            className="btn btn-plain btn-sm"
            disabled={busy}
            onClick={() => (sent(repeatable) ? setAsking(repeatable.stepId) : again(repeatable, false))}
          >
            <RotateCcw className="size-4" aria-hidden="true" />
            {repeatable.place === 'first'
              ? `Take it up from “${repeatable.title}”`
              : `Run from “${repeatable.title}” again`}
          </button>
        )}
        {run.state === 'needs_you' && (
          <button
            type="button"
            className="btn btn-primary btn-sm"
            disabled={busy}
            onClick={() => attempt(() => call('POST', `/api/workflows/${run.workflowId}/runs/${run.id}/handled`))}
          >
            <Check className="size-4" aria-hidden="true" />
            Mark as handled
          </button>
        )}
      </div>
      <Notice told={told} className="mb-3" />
      {asking && repeatable && (
        <div className="notice mb-3 flex flex-wrap items-center gap-3" role="alertdialog" aria-label="Send again?">
          <span>
            {repeatable.place === 'first' ? 'A message' : `“${repeatable.title}”`} has already gone out to {run.name}.
            Running it again writes to the same person a second time.
          </span>
          <button type="button" className="btn btn-error btn-sm" onClick={() => again(repeatable, true)}>
            Send it a second time
          </button>
          <button type="button" className="btn btn-ghost btn-sm" onClick={() => setAsking(null)}>
            Leave it
          </button>
        </div>
      )}
      {run.state === 'known' ? (
        <p className="sheet-card mb-2.5 p-4 text-ink-2">
          This person had already been through this workflow, so their record was updated and no message was repeated.
        </p>
      ) : (
        run.moments.map((moment) => (
          <MomentOfRun
            key={moment.id}
            run={run}
            moment={moment}
            shown={shown?.stepId ?? null}
            place={place}
            onChoose={setStepId}
          />
        ))
      )}
      {shown && run.state !== 'known' && <StepDetail step={shown} place={place} leadId={run.leadId} />}
      <div className="grid gap-2.5 lg:grid-cols-2">
        <section className="sheet-card p-4">
          <h3 className="mb-2 font-sans text-[13px] font-semibold text-ink-2">What came in</h3>
          <dl className="grid grid-cols-[130px_minmax(0,1fr)] gap-y-1.5">
            {run.fields.map((field) => (
              <Fragment key={field.key}>
                <dt className="text-ink-2">{field.label}</dt>
                <dd className="break-words">{field.value || <span className="text-ink-3">empty</span>}</dd>
              </Fragment>
            ))}
          </dl>
        </section>
        <section className="sheet-card p-4">
          <Tidied run={run} />
          <h3 className="mt-3 mb-2 font-sans text-[13px] font-semibold text-ink-2">Where from</h3>
          <dl className="grid grid-cols-[130px_minmax(0,1fr)] gap-y-1.5">
            {Object.keys(run.where).length === 0 && <dd className="col-span-2 text-ink-3">The source did not say</dd>}
            {whereWords(run.where).map(([key, label, value]) => (
              <Fragment key={key}>
                <dt className="text-ink-2">{label}</dt>
                <dd className="break-words">{value}</dd>
              </Fragment>
            ))}
          </dl>
        </section>
      </div>
    </>
  );
}

const wasSent = ({ delivery }: StepView): boolean =>
  delivery !== null && ['accepted', 'delivered'].includes(delivery.state);

/** One moment: when it began, which case was taken and why, and its steps as bars in time. */
function MomentOfRun({
  run,
  moment,
  shown,
  place,
  onChoose,
}: {
  run: RunView;
  moment: MomentView;
  shown: string | null;
  place: Place;
  onChoose: (stepId: string) => void;
}) {
  const steps = run.steps.filter(
    (step) =>
      step.momentId === moment.id &&
      (step.place === 'first' || moment.caseName === null || step.caseId === moment.caseId),
  );
  const times = steps
    .flatMap((step) => [step.startedAt, step.finishedAt, ...step.attempts.map((one) => one.at)])
    .filter((at) => at !== null)
    .map(Date.parse);
  const start = Math.min(...(moment.beganAt ? [Date.parse(moment.beganAt)] : []), ...times);
  const end = Math.max(
    start + 1,
    ...times,
    ...steps.flatMap((step) => step.attempts.map((one) => Date.parse(one.at) + one.ms)),
  );
  const begun = moment.beganAt !== null && Number.isFinite(start);
  return (
    <section className="sheet-card mb-2.5 p-4" aria-label={moment.title} data-testid="moment-of-run">
      <div className="mb-1 flex flex-wrap items-baseline justify-between gap-2">
        <h3 className="text-[15px]">
          {moment.title}
          {moment.caseName && <span className="ml-2 font-sans text-[13px] text-ink-2">{moment.caseName}</span>}
        </h3>
        <span className="text-xs text-ink-2" title={moment.beganAt ? exactWords(moment.beganAt, place) : ''}>
          {begun
            ? `${whenWords(moment.beganAt!, Date.parse(run.createdAt), place)}${end - start > 1000 ? ` to ${clockSeconds(new Date(end).toISOString(), place)}` : ''}, version ${run.version}`
            : moment.dueAt
              ? `due ${whenWords(moment.dueAt, Date.parse(run.createdAt), place)}`
              : run.state === 'active'
                ? 'not yet'
                : 'not reached'}
        </span>
      </div>
      {moment.skipped && <p className="text-[13px] text-warning">Left out. {moment.skipped}</p>}
      {moment.compared.length > 0 && (
        <ul className="text-[13px] text-ink-2">
          {moment.compared.map((one) => (
            <li key={one.words}>
              <span className={one.holds ? 'text-success' : 'text-warning'}>{one.holds ? 'true' : 'false'}</span>{' '}
              {one.words}
            </li>
          ))}
        </ul>
      )}
      {begun &&
        !moment.skipped &&
        (['first', 'lead', 'record', 'team'] as StepPlace[]).map((lane) => {
          const own = steps.filter((step) => step.place === lane);
          if (own.length === 0) return null;
          return (
            <Fragment key={lane}>
              <p className={`mt-2 text-xs font-semibold ${HEADS[lane]}`}>{LANE_LABELS[lane]}</p>
              {own.map((step) => (
                <button
                  key={step.stepId}
                  type="button"
                  aria-pressed={shown === step.stepId}
                  className={`grid w-full grid-cols-[190px_minmax(0,1fr)_110px] items-center gap-2 rounded-md px-1 py-1 text-left ${shown === step.stepId ? 'bg-base-200' : 'hover:bg-base-200'}`}
                  onClick={() => onChoose(step.stepId)}
                >
                  <span className="flex min-w-0 items-center gap-1.5">
                    <KindIcon name={step.icon} />
                    <span className="truncate">{step.title}</span>
                  </span>
                  <Bars step={step} start={start} span={end - start} />
                  <span className="text-right text-[13px] text-ink-2">
                    <StepWords step={step} place={place} />
                  </span>
                </button>
              ))}
            </Fragment>
          );
        })}
    </section>
  );
}

function Tidied({ run }: { run: RunView }) {
  const changes = run.steps.flatMap((step) => (step.plan?.does === 'change' ? step.plan.changes : []));
  if (changes.length === 0) return null;
  return (
    <>
      <h3 className="mb-2 font-sans text-[13px] font-semibold text-ink-2">After tidying</h3>
      <dl className="grid grid-cols-[130px_minmax(0,1fr)] gap-y-1.5">
        {changes.map((one) => (
          <Fragment key={one.field}>
            <dt className="text-ink-2">{changeLabel(one.field)}</dt>
            <dd className="break-words">
              <span className={one.after === one.before ? '' : 'rounded bg-brass-soft px-1'}>
                {one.after || 'empty'}
              </span>
              {one.problem && <span className="text-warning"> {one.problem}</span>}
            </dd>
          </Fragment>
        ))}
      </dl>
    </>
  );
}

/** Each try is a bar where it stands in time; a refused or repeated one is brick. */
function Bars({ step, start, span }: { step: StepView; start: number; span: number }) {
  const bars =
    step.attempts.length > 0
      ? step.attempts.map((one) => ({
          at: Date.parse(one.at),
          ms: one.ms,
          good: one.outcome === 'accepted' || one.outcome === 'done',
          say: one.detail,
        }))
      : step.startedAt && step.state !== 'nothing' && step.state !== 'skipped'
        ? [{ at: Date.parse(step.startedAt), ms: 0, good: step.state === 'done', say: '' }]
        : [];
  return (
    <span className="relative block h-3.5">
      {bars.map((bar) => (
        <span
          key={bar.at}
          title={bar.say}
          className={`absolute top-0 h-3.5 min-w-2 rounded ${bar.good ? COLOURS[step.place] : 'bg-bad-line'}`}
          style={{
            left: `${Math.min(97, ((bar.at - start) / span) * 97)}%`,
            width: `${Math.max(0, Math.min(100 - ((bar.at - start) / span) * 97, (bar.ms / span) * 97))}%`,
          }}
        />
      ))}
    </span>
  );
}

function StepWords({ step, place }: { step: StepView; place: Place }) {
  const total = step.attempts.reduce((sum, one) => sum + one.ms, 0);
  if (step.state === 'not_yet') return <>not yet</>;
  if (step.state === 'held' && step.nextTryAt)
    return <span className="text-warning">held until {clockTime(step.nextTryAt, place)}</span>;
  if (step.state === 'again') return <span className="text-warning">trying again</span>;
  if (step.state === 'refused')
    return <span className="text-error">{step.attempts.length > 1 ? `${step.attempts.length} tries` : 'refused'}</span>;
  if (step.state === 'ask') return <span className="text-error">not done</span>;
  if (step.plan?.does === 'end') return <span className="text-warning">stopped here</span>;
  if (step.state === 'nothing') return <>nothing to do</>;
  if (step.instead && step.state === 'done') return <>other way</>;
  if (step.state === 'skipped') return <>left out</>;
  if (step.attempts.length > 1) return <>{step.attempts.length} tries</>;
  return <>{step.attempts.length > 0 ? durationWords(total) : 'done'}</>;
}
