import { useState } from 'react';
import { call } from '../client/call.ts';
import { ToldLine } from '../client/Notice.tsx';
import { useAction } from '../client/use-action.ts';
import { useQuery } from '../client/use-query.ts';
import { within } from '../client/within.ts';
import { type LeftOut, leftOutWords, type ReachedPerson } from '../core/people/left-out.ts';
import { type ReachAsked, reachQuery, useReach } from './use-reach.ts';

/** Who an email to many would go to and who not, by reason, with the people behind each number. */
export function ReachNote(asked: ReachAsked) {
  const reach = useReach(asked);
  const [shown, setShown] = useState<LeftOut | 'reached' | null>(null);
  if (!reach) return null;
  const open = (code: LeftOut | 'reached') => setShown(shown === code ? null : code);
  const link = (code: LeftOut | 'reached', words: string) => (
    <button type="button" className="link" aria-expanded={shown === code} onClick={() => open(code)}>
      {words}
    </button>
  );
  return (
    <div className="notice mb-3 text-note" data-testid="reach">
      <p>
        {reach.people === 0
          ? 'Nobody is there yet.'
          : link(
              'reached',
              reach.reached === reach.people
                ? `It would go to ${reach.people} ${reach.people === 1 ? 'person' : 'people'} now.`
                : `It would go to ${reach.reached} of ${reach.people} now.`,
            )}
      </p>
      {reach.left.length > 0 && (
        <ul className="mt-1">
          {reach.left.map(({ code, count }) => (
            <li key={code}>Not to {link(code, leftOutWords(code, count))}.</li>
          ))}
        </ul>
      )}
      {shown && <People key={`${shown} ${reachQuery(asked)}`} asked={asked} code={shown} />}
    </div>
  );
}

function People({ asked, code }: { asked: ReachAsked; code: LeftOut | 'reached' }) {
  const query = reachQuery(asked);
  query.set('code', code);
  const first = useQuery(['reached', query.toString()], () => call('GET', `/api/audience/people?${query}`), {
    first: null,
    at: 0,
    live: false,
  });
  /** What was asked for beyond the first page. */
  const [further, setFurther] = useState<{ people: ReachedPerson[]; next: string | null } | null>(null);
  const { act, busy, told } = useAction();
  if (!first.value) return <p className="mt-2 text-ink-2">{first.problem || 'Looking …'}</p>;
  const people = [...first.value.people, ...(further?.people ?? [])];
  const next = further ? further.next : first.value.next;
  const load = (after: string) =>
    act(async () => {
      query.set('after', after);
      const page = await call('GET', `/api/audience/people?${query}`);
      setFurther({ people: [...(further?.people ?? []), ...page.people], next: page.next });
    });
  return (
    <div className="mt-2 max-h-56 overflow-y-auto rounded-md border border-base-300 bg-base-100">
      <ul>
        {people.map((person) => (
          <li key={person.id} className="flex justify-between gap-3 border-b border-base-300 px-2 py-1 last:border-0">
            <a className="font-semibold hover:underline" href={within(`/leads/${person.id}`)}>
              {person.name}
            </a>
            <span className="truncate text-ink-2">{person.email || 'no address'}</span>
          </li>
        ))}
      </ul>
      <ToldLine told={told} className="m-1" />
      {next && (
        <button type="button" className="btn btn-ghost btn-xs m-1" disabled={busy} onClick={() => void load(next)}>
          Show more
        </button>
      )}
    </div>
  );
}
