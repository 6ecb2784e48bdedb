import { useRef } from 'react';
import type { NeedView } from '../../app/today/needs-you.ts';
import { call } from '../../client/call.ts';
import { nextOf, useSingleKeys } from '../../client/use-single-keys.ts';
import { within } from '../../client/within.ts';
import { exactWords, type Place, whenWords } from '../../core/words/instant.ts';

/** What needs a person, each with what can be done about it. */
export function NeedsList({
  needs,
  now,
  place,
  busy,
  act,
}: {
  needs: readonly NeedView[];
  now: number;
  place: Place;
  busy: boolean;
  act(work: () => Promise<{ done: string }>): void;
}) {
  const list = useRef<HTMLUListElement>(null);
  const cards = () => [...(list.current?.querySelectorAll<HTMLElement>('li[tabindex]') ?? [])];
  const at = () => cards().findIndex((card) => card.contains(document.activeElement));
  useSingleKeys({
    j: () => nextOf(cards(), at(), 1)?.focus(),
    k: () => nextOf(cards(), at(), -1)?.focus(),
    e: () => {
      const need = needs[at()];
      if (need && !busy) act(() => call('POST', `/api/needs/${need.id}/settle`));
    },
  });
  return (
    <ul ref={list} data-testid="needs-list">
      {needs.map((need) => (
        <li key={need.id} tabIndex={-1} className="border-b border-base-300 px-4 py-3 last:border-0">
          <p className="font-semibold">{need.title}</p>
          <p className="mb-2 text-note break-words text-ink-2">
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
      <a className="btn btn-ghost btn-sm" href={within(`/leads/${need.leadId}`)}>
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
      <a className="btn btn-ghost btn-sm" href={within(`/leads/${need.leadId}`)}>
        See who has it
      </a>
      <a className="btn btn-ghost btn-sm" href={within(`/leads/${need.otherLeadId}`)}>
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
          <a className="btn btn-plain btn-sm" href={within(`/leads/${need.leadId}`)}>
            Put right
          </a>
        )}
        <a className="btn btn-plain btn-sm" href={within(`/workflows/${need.workflowId}/log?run=${need.runId}`)}>
          See what happened
        </a>
      </>
    );
  if (need.connectionId)
    return (
      <a className="btn btn-plain btn-sm" href={within(`/connections/${need.connectionId}`)}>
        Open the connection
      </a>
    );
  if (need.sourceId)
    return (
      <a className="btn btn-plain btn-sm" href={within(`/sources/${need.sourceId}`)}>
        See what came in
      </a>
    );
  if (need.leadId)
    return (
      <a className="btn btn-plain btn-sm" href={within(`/leads/${need.leadId}`)}>
        Open the lead
      </a>
    );
  return null;
}
