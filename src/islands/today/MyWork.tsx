import type { ReactNode } from 'react';
import type { MyWork as Work } from '../../app/today/my-work.ts';
import { call } from '../../client/call.ts';
import { ToldLine } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { useQuery } from '../../client/use-query.ts';
import { within } from '../../client/within.ts';
import { ChannelIcon } from '../../components/ChannelIcon.tsx';
import { clockTime, type Place, whenWords } from '../../core/words/instant.ts';

function Part({ name, none, children }: { name: string; none: string; children: ReactNode[] }) {
  return (
    <section className="sheet-card p-4" aria-label={name}>
      <h2 className="mb-2 text-part">{name}</h2>
      {children.length > 0 ? <ul>{children}</ul> : <p className="text-ink-2">{none}</p>}
    </section>
  );
}

const ROW = 'flex flex-wrap items-baseline gap-x-2 border-b border-base-300 py-1.5 last:border-0';

/** The day of somebody who works with leads: what waits for them, and who is new. */
export default function MyWork({ first, place, now: at }: { first: Work; place: Place; now: number }) {
  const { value, at: now, again } = useQuery(['my-work'], () => call('GET', '/api/my-work'), { first, at });
  const { act, busy, told } = useAction();
  return (
    <div className="mx-auto grid max-w-[1100px] gap-4 p-5 max-sm:p-3 md:grid-cols-2">
      <h1 className="text-xl md:col-span-2">What waits for you</h1>
      <ToldLine told={told} className="md:col-span-2" />
      <Part name="Tasks" none="No task waits for you.">
        {value.tasks.map((task) => (
          <li key={task.id} className={ROW}>
            <a className="link font-semibold" href={within(`/leads/${task.leadId}`)}>
              {task.lead}
            </a>
            <span className="min-w-0 grow">{task.title}</span>
            <span className={`text-note ${Date.parse(task.dueAt) < now ? 'text-error' : 'text-ink-2'}`}>
              {Date.parse(task.dueAt) < now ? 'was due' : 'due'} {whenWords(task.dueAt, now, place)}
              {task.colleague === '' && ', for whoever is free'}
            </span>
            <button
              type="button"
              className="btn btn-plain btn-xs"
              disabled={busy}
              aria-label={`${task.title}: done`}
              onClick={() =>
                void act(async () => {
                  await call('PUT', `/api/tasks/${task.id}`, { done: true });
                  await again();
                })
              }
            >
              Done
            </button>
          </li>
        ))}
      </Part>
      <Part name="Written to you" none="Everything that came in has been looked at.">
        {value.conversations.map((one) => (
          <li key={one.id} className={ROW}>
            <a className="link flex items-center gap-1 font-semibold" href={within(`/conversations?open=${one.id}`)}>
              <ChannelIcon channel={one.channel} />
              {one.name}
            </a>
            <span className="min-w-0 grow basis-40 truncate">{one.lastText}</span>
            <span className="text-note text-ink-2">{whenWords(one.lastAt, now, place)}</span>
          </li>
        ))}
      </Part>
      <Part name="Still to come today" none="No appointment any more today.">
        {value.appointments.map((one) => (
          <li key={one.id} className={ROW}>
            <span className="font-mono">{clockTime(one.startsAt, place)}</span>
            <span className="min-w-0 grow">{one.title}</span>
            {one.leadId && (
              <a className="link" href={within(`/leads/${one.leadId}`)}>
                {one.lead}
              </a>
            )}
            <span className="text-note text-ink-2">{one.colleague}</span>
          </li>
        ))}
      </Part>
      <Part name="Leads heard of last" none="No lead is given to you yet.">
        {value.leads.map((lead) => (
          <li key={lead.id} className={ROW}>
            <a className="link font-semibold" href={within(`/leads/${lead.id}`)}>
              {lead.name}
            </a>
            <span className="min-w-0 grow text-note text-ink-2">{lead.sourceName}</span>
            <span className="text-note text-ink-2">{whenWords(lead.lastArrivalAt, now, place)}</span>
          </li>
        ))}
      </Part>
    </div>
  );
}
