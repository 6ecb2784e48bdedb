import { useState } from 'react';
import type { Leaving } from '../../app/people/leaving.ts';
import type { PersonView } from '../../app/people/people.ts';
import { call } from '../../client/call.ts';
import { Modal } from '../../client/Modal.tsx';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { Choice } from '../../components/fields.tsx';
import type { WorkingTime } from '../../core/people/working-time.ts';
import type { Place as Clock } from '../../core/words/instant.ts';
import { MayFields, type Place } from './MayFields.tsx';
import { WorkingHours } from './WorkingHours.tsx';

const some = (n: number, what: string): string => `${n} ${what}${n === 1 ? '' : 's'}`;

/** What they have in hand, as one sentence. */
function inHand({ leads, tasks, conversations, appointments, workflows, bookings }: Leaving): string {
  const parts = [
    leads > 0 && some(leads, 'lead'),
    tasks > 0 && some(tasks, 'open task'),
    conversations > 0 && some(conversations, 'open conversation'),
    appointments > 0 && `${some(appointments, 'appointment')} to come`,
    bookings.length > 0 && `the bookings of ${bookings.join(', ')}`,
    workflows.length > 0 && `their part in ${workflows.map((name) => `“${name}”`).join(', ')}`,
  ].filter((part) => part !== false);
  return parts.length === 0 ? 'They have nothing in hand.' : `They have in hand: ${parts.join('; ')}.`;
}

/** One person: what they may do, and, when they have left, who takes over. */
export function PersonDialog({
  person,
  others,
  teams,
  clock,
  onDone,
  onClose,
}: {
  person: PersonView;
  others: readonly PersonView[];
  teams: readonly { id: string; name: string }[];
  /** How the business writes dates, and its clock. */
  clock: Clock;
  onDone: () => Promise<void>;
  onClose: () => void;
}) {
  const [place, setPlace] = useState<Place>({
    role: person.role,
    whoseLeads: person.whoseLeads,
    teams: person.teams,
  });
  const [leaving, setLeaving] = useState<Leaving | null>(null);
  const [working, setWorking] = useState<{ working: WorkingTime | null } | null>(null);
  const [to, setTo] = useState('');
  const { act, busy, told } = useAction();
  const done = async () => {
    await onDone();
    onClose();
  };
  return (
    <Modal label={person.name} className="w-full max-w-lg" onClose={onClose}>
      <div className="p-5">
        <h2 className="text-lg">{person.name}</h2>
        <p className="mb-3 text-note break-all text-ink-2">{person.email}</p>
        <Notice told={told} className="mb-3" />
        {leaving ? (
          <>
            <p className="mb-3">{inHand(leaving)}</p>
            <Choice
              label="Who takes over"
              value={to}
              options={[
                ['', 'Nobody: their leads have no name to them, tasks are for whoever is free'],
                ...others.map(({ id, name }) => [id, name] as const),
              ]}
              onChange={setTo}
            />
            <p className="mb-3 text-note text-ink-2">
              They are signed out and see nothing of this business any more. What they did stays in their name.
            </p>
            <div className="flex gap-2">
              <button
                type="button"
                className="btn btn-sm btn-error"
                disabled={busy}
                onClick={() =>
                  void act(async () => {
                    await call('POST', `/api/people/${person.id}/leave`, { to: to || null });
                    await done();
                  })
                }
              >
                {person.name} has left
              </button>
              <button type="button" className="btn btn-ghost btn-sm" onClick={() => setLeaving(null)}>
                Back
              </button>
            </div>
          </>
        ) : (
          <>
            <MayFields value={place} teams={teams} onChange={setPlace} />
            <details
              className="mb-3"
              onToggle={(event) => {
                if (event.currentTarget.open && !working)
                  void act(async () => setWorking(await call('GET', `/api/people/${person.id}/working-time`)));
              }}
            >
              <summary className="cursor-pointer text-note">When they work</summary>
              <div className="mt-2">
                {working && (
                  <WorkingHours
                    first={working.working}
                    place={clock}
                    zoneName={clock.timeZone.replaceAll('_', ' ')}
                    onSave={(next) => call('PUT', `/api/people/${person.id}/working-time`, { working: next })}
                  />
                )}
              </div>
            </details>
            <div className="flex flex-wrap gap-2">
              <button
                type="button"
                className="btn btn-primary btn-sm"
                disabled={busy}
                onClick={() =>
                  void act(async () => {
                    await call('PUT', `/api/people/${person.id}`, place);
                    await done();
                  })
                }
              >
                Save
              </button>
              <button type="button" className="btn btn-ghost btn-sm" onClick={onClose}>
                Leave it as it is
              </button>
              <button
                type="button"
                className="btn btn-ghost btn-sm ml-auto text-error"
                disabled={busy}
                onClick={() => void act(async () => setLeaving(await call('GET', `/api/people/${person.id}/leaving`)))}
              >
                They have left …
              </button>
            </div>
          </>
        )}
      </div>
    </Modal>
  );
}
