import { z } from 'zod';
import { changeSignOn, demandSecond, getSignInRules, removeSignOn, SignOnInput } from '../app/account/sign-on.ts';
import { invite, inviteAgain, listInvitations, NewInvitation, withdrawInvitation } from '../app/people/invitations.ts';
import { LeaveInput, letLeave, lookAtLeaving } from '../app/people/leaving.ts';
import { changePerson, listPeople, PersonChange } from '../app/people/people.ts';
import { changeTeam, listTeams, makeTeam, removeTeam, TeamInput } from '../app/people/teams.ts';
import { changeTelling, getTelling } from '../app/people/telling.ts';
import { changeWorking, getWorking, WorkingInput } from '../app/people/working.ts';
import { Telling } from '../core/notices/telling.ts';
import { doors } from './route.ts';

const { reads, takes, writes, writesAlone } = doors('see-work', 'people');

export const peopleRoutes = [
  reads('/invitations', (use) => listInvitations(use), 'people'),
  writes('POST', '/invitations', NewInvitation, (tx, input) => invite(tx, input)),
  writesAlone('POST', '/invitations/:invitation/again', (tx, { invitation }) => inviteAgain(tx, invitation)),
  writesAlone('DELETE', '/invitations/:invitation', (tx, { invitation }) => withdrawInvitation(tx, invitation)),
  reads('/people', (use) => listPeople(use)),
  writes('PUT', '/people/:person', PersonChange, (tx, input, { person }) => changePerson(tx, person, input)),
  reads('/people/:person/leaving', (use, { person }) => lookAtLeaving(use, person), 'people'),
  writes('POST', '/people/:person/leave', LeaveInput, (tx, input, { person }) => letLeave(tx, person, input)),
  reads('/my-working-time', async (use) => ({ working: await getWorking(use) }), 'own'),
  reads('/my-telling', (use) => getTelling(use), 'own'),
  writes('PUT', '/my-telling', Telling, (tx, input) => changeTelling(tx, input), 'own'),
  writes('PUT', '/my-working-time', WorkingInput, (tx, input) => changeWorking(tx, input), 'own'),
  reads(
    '/people/:person/working-time',
    async (use, { person }) => ({ working: await getWorking(use, person) }),
    'manage',
  ),
  writes(
    'PUT',
    '/people/:person/working-time',
    WorkingInput,
    (tx, input, { person }) => changeWorking(tx, input, person),
    'manage',
  ),
  reads('/sign-in-rules', (use) => getSignInRules(use), 'people'),
  writes('PUT', '/sign-in-rules', z.object({ demands: z.boolean() }), (tx, input) => demandSecond(tx, input)),
  takes('PUT', '/sign-on', SignOnInput, (use, input) => changeSignOn(use, input)),
  writesAlone('DELETE', '/sign-on', (tx) => removeSignOn(tx)),
  reads('/teams', (use) => listTeams(use)),
  writes('POST', '/teams', TeamInput, (tx, input) => makeTeam(tx, input)),
  writes('PUT', '/teams/:team', TeamInput, (tx, input, { team }) => changeTeam(tx, team, input)),
  writesAlone('DELETE', '/teams/:team', (tx, { team }) => removeTeam(tx, team)),
] as const;
