import UserPlus from 'lucide-react/icons/user-plus';
import { useState } from 'react';
import type { InvitationView } from '../../app/people/invitations.ts';
import type { PersonView } from '../../app/people/people.ts';
import type { TeamView } from '../../app/people/teams.ts';
import { call } from '../../client/call.ts';
import { useQuery } from '../../client/use-query.ts';
import { ROLE_WORDS, WHOSE_LEADS_WORDS } from '../../core/people/rights.ts';
import { type Place, whenWords } from '../../core/words/instant.ts';
import { Invitations } from './Invitations.tsx';
import { InviteForm } from './InviteForm.tsx';
import { PersonDialog } from './PersonDialog.tsx';
import { Teams } from './Teams.tsx';

interface All {
  people: PersonView[];
  teams: TeamView[];
  invitations: InvitationView[];
}

/** Who belongs to the business, what each may do, and who is asked in. */
export default function People({
  first,
  me,
  mayChange,
  place,
  now: at,
}: {
  first: All;
  me: string;
  mayChange: boolean;
  place: Place;
  now: number;
}) {
  const {
    value: { people, teams, invitations },
    at: now,
    again,
  } = useQuery(
    ['people'],
    async (): Promise<All> => ({
      people: await call('GET', '/api/people'),
      teams: await call('GET', '/api/teams'),
      invitations: mayChange ? await call('GET', '/api/invitations') : [],
    }),
    { first, at },
  );
  const [open, setOpen] = useState<string | null>(null);
  const person = people.find(({ id }) => id === open);
  const teamsOf = ({ teams: ids }: PersonView) =>
    teams
      .filter(({ id }) => ids.includes(id))
      .map(({ name }) => name)
      .join(', ');
  return (
    <>
      {mayChange && (
        <button type="button" className="btn btn-primary btn-sm mb-3" onClick={() => setOpen('invite')}>
          <UserPlus className="size-4" aria-hidden="true" />
          Invite somebody
        </button>
      )}
      <div className="sheet-card mb-4 overflow-x-auto">
        <table className="table">
          <thead>
            <tr>
              <th>Name</th>
              <th>Role</th>
              <th>Teams</th>
              <th>Here last</th>
              {mayChange && <th className="w-0" aria-label="Change" />}
            </tr>
          </thead>
          <tbody>
            {people.map((one) => (
              <tr key={one.id}>
                <td>
                  <span className="font-semibold">{one.name}</span>
                  {one.id === me && <span className="text-ink-2"> (you)</span>}
                  <span className="block text-note break-all text-ink-2">{one.email}</span>
                </td>
                <td>
                  {ROLE_WORDS[one.role].name}
                  {one.role === 'desk' && (
                    <span className="block text-note text-ink-2">{WHOSE_LEADS_WORDS[one.whoseLeads]}</span>
                  )}
                </td>
                <td className="text-ink-2">{teamsOf(one)}</td>
                <td className="whitespace-nowrap text-ink-2">
                  {one.seenAt ? whenWords(one.seenAt, now, place) : 'Not of late'}
                </td>
                {mayChange && (
                  <td>
                    <button
                      type="button"
                      className="btn btn-plain btn-xs"
                      aria-label={`Change ${one.name}`}
                      onClick={() => setOpen(one.id)}
                    >
                      Change
                    </button>
                  </td>
                )}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <Invitations {...{ invitations, place, now }} onDone={again} />
      <Teams {...{ teams, people, mayChange }} onDone={again} />
      {open === 'invite' && <InviteForm teams={teams} onDone={again} onClose={() => setOpen(null)} />}
      {person && (
        <PersonDialog
          key={person.id}
          person={person}
          others={people.filter(({ id }) => id !== person.id)}
          teams={teams}
          clock={place}
          onDone={again}
          onClose={() => setOpen(null)}
        />
      )}
    </>
  );
}
