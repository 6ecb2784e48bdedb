import Check from 'lucide-react/icons/check';
import RotateCcw from 'lucide-react/icons/rotate-ccw';
import { Fragment, useRef, useState } from 'react';
import { v7 as uuidv7 } from 'uuid';
import type { RunView, StepView } from '../../app/workflows/get-run.ts';
import { call } from '../../client/call.ts';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { within } from '../../client/within.ts';
import { StatePill } from '../../components/run-state.tsx';
import { whereWords } from '../../core/source/where-from.ts';
import type { Place } from '../../core/words/instant.ts';
import { changeLabel } from '../../core/workflow/plan.ts';
import { MomentOfRun } from './MomentOfRun.tsx';
import { StepDetail } from './StepDetail.tsx';

interface Props {
  run: RunView;
  place: Place;
  /** Something was done; the id of the run to show next, if it is another. */
  onDone: (next?: string) => void;
}

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
    step.place === 'first' ? run.steps.some((step) => step.place !== 'first' && wasSent(step)) : wasSent(step);
  return (
    <>
      <div className="mb-2.5 flex flex-wrap items-center gap-2">
        <h2 className="text-part">
          <a className="hover:underline" href={within(`/leads/${run.leadId}`)}>
            {run.name}
          </a>
        </h2>
        <StatePill state={run.state} outcome={run.outcome} />
        {run.outcome && run.state !== 'stopped' && <span className="text-note text-ink-2">{run.outcome}</span>}
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
            {repeatable.place === 'first' ? 'A message' : `“${repeatable.title}”`}{' '}
            {repeatable.delivery?.state === 'unsure'
              ? `may have reached ${run.name} already: look at the service first. If it has, running it again writes to them a second time.`
              : `has already gone out to ${run.name}. Running it again writes to the same person a second time.`}
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
          <h3 className="mb-2 font-sans text-note font-semibold text-ink-2">What came in</h3>
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
          <h3 className="mt-3 mb-2 font-sans text-note font-semibold text-ink-2">Where from</h3>
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
  delivery !== null && ['accepted', 'delivered', 'unsure'].includes(delivery.state);

function Tidied({ run }: { run: RunView }) {
  const changes = run.steps.flatMap((step) => (step.plan?.does === 'change' ? step.plan.changes : []));
  if (changes.length === 0) return null;
  return (
    <>
      <h3 className="mb-2 font-sans text-note font-semibold text-ink-2">After tidying</h3>
      <dl className="grid grid-cols-[130px_minmax(0,1fr)] gap-y-1.5">
        {changes.map((change) => (
          <Fragment key={change.field}>
            <dt className="text-ink-2">{changeLabel(change.field)}</dt>
            <dd className="break-words">
              <span className={change.after === change.before ? '' : 'rounded bg-brass-soft px-1'}>
                {change.after || 'empty'}
              </span>
              {change.problem && <span className="text-warning"> {change.problem}</span>}
            </dd>
          </Fragment>
        ))}
      </dl>
    </>
  );
}
