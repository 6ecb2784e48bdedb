import { Fragment } from 'react';
import type { MomentView, RunView, StepView } from '../../app/workflows/get-run.ts';
import { KindIcon } from '../../components/icons.tsx';
import { durationWords } from '../../core/words/duration.ts';
import { clockSeconds, clockTime, exactWords, type Place, whenWords } from '../../core/words/instant.ts';
import { LANE_LABELS, type Place as StepPlace } from '../../core/workflow/definition.ts';

/** One moment: when it began, which case was taken and why, and its steps as bars in time. */
export function MomentOfRun({
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
    .flatMap((step) => [step.startedAt, step.finishedAt, ...step.attempts.map((attempt) => attempt.at)])
    .filter((at) => at !== null)
    .map(Date.parse);
  const start = Math.min(...(moment.beganAt ? [Date.parse(moment.beganAt)] : []), ...times);
  const end = Math.max(
    start + 1,
    ...times,
    ...steps.flatMap((step) => step.attempts.map((attempt) => Date.parse(attempt.at) + attempt.ms)),
  );
  const begun = moment.beganAt !== null && Number.isFinite(start);
  return (
    <section className="sheet-card mb-2.5 p-4" aria-label={moment.title} data-testid="moment-of-run">
      <div className="mb-1 flex flex-wrap items-baseline justify-between gap-2">
        <h3 className="text-part">
          {moment.title}
          {moment.caseName && <span className="ml-2 font-sans text-note text-ink-2">{moment.caseName}</span>}
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
      {moment.skipped && <p className="text-note text-warning">Left out. {moment.skipped}</p>}
      {moment.compared.length > 0 && (
        <ul className="text-note text-ink-2">
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
                  <span className="text-right text-note text-ink-2">
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

/** Each try is a bar where it stands in time; a refused or repeated one is brick. */
function Bars({ step, start, span }: { step: StepView; start: number; span: number }) {
  const bars =
    step.attempts.length > 0
      ? step.attempts.map((attempt) => ({
          at: Date.parse(attempt.at),
          ms: attempt.ms,
          good: attempt.outcome === 'accepted' || attempt.outcome === 'done',
          say: attempt.detail,
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
  const total = step.attempts.reduce((sum, attempt) => sum + attempt.ms, 0);
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
