import { findAnything } from '../app/find/find.ts';
import { RefusalRead, readRefusal } from '../app/leads/read-refusal.ts';
import { sayWhoseNumber, WhoseNumber } from '../app/leads/whose-number.ts';
import { changeFirstVisit, FirstVisit, getFirstSteps, MyPhone, sayMyPhone } from '../app/today/first-steps.ts';
import { getMyWork } from '../app/today/my-work.ts';
import { settleNeed } from '../app/today/needs-you.ts';
import { getToday } from '../app/today/today.ts';
import { liveStream } from '../web/live-stream.ts';
import { doors } from './route.ts';

const { reads, writes, writesAlone } = doors('see-work', 'do-work');

export const todayRoutes = [
  reads('/live', (use, _, __, { cookie, request }) => liveStream(use, cookie, request.signal), 'own'),
  reads('/find', (use, _, query) => findAnything(use, query.get('q') ?? '')),
  reads('/first-steps', (use) => getFirstSteps(use), 'see-setup'),
  writes('PUT', '/first-steps', FirstVisit, (tx, input) => changeFirstVisit(tx, input), 'build'),
  writes('PUT', '/first-steps/phone', MyPhone, (tx, input) => sayMyPhone(tx, input), 'build'),
  writes(
    'POST',
    '/needs/:need/refusal',
    RefusalRead,
    (tx, { means }, { need }) => readRefusal(tx, need, means),
    'build',
  ),
  writesAlone('POST', '/needs/:need/settle', (tx, { need }) => settleNeed(tx, need), 'build'),
  writes(
    'POST',
    '/needs/:need/whose',
    WhoseNumber,
    (tx, { answer }, { need }) => sayWhoseNumber(tx, need, answer),
    'build',
  ),
  reads('/my-work', (use) => getMyWork(use)),
  reads('/today', (use) => getToday(use), 'see-setup'),
] as const;
