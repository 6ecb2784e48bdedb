import { findAnything } from '../app/find/find.ts';
import { RefusalRead, readRefusal } from '../app/leads/read-refusal.ts';
import { sayWhoseNumber, WhoseNumber } from '../app/leads/whose-number.ts';
import { changeFirstVisit, FirstVisit, getFirstSteps, MyPhone, sayMyPhone } from '../app/today/first-steps.ts';
import { settleNeed } from '../app/today/needs-you.ts';
import { getToday } from '../app/today/today.ts';
import { liveStream } from '../web/live-stream.ts';
import { reads, writes, writesAlone } from './route.ts';

export const todayRoutes = [
  reads('/live', (use, _, __, { cookie, request }) => liveStream(use, cookie, request.signal)),
  reads('/find', (use, _, query) => findAnything(use, query.get('q') ?? '')),
  reads('/first-steps', (use) => getFirstSteps(use)),
  writes('PUT', '/first-steps', FirstVisit, (tx, input) => changeFirstVisit(tx, input)),
  writes('PUT', '/first-steps/phone', MyPhone, (tx, input) => sayMyPhone(tx, input)),
  writes('POST', '/needs/:need/refusal', RefusalRead, (tx, { means }, { need }) => readRefusal(tx, need, means)),
  writesAlone('POST', '/needs/:need/settle', (tx, { need }) => settleNeed(tx, need)),
  writes('POST', '/needs/:need/whose', WhoseNumber, (tx, { answer }, { need }) => sayWhoseNumber(tx, need, answer)),
  reads('/today', (use) => getToday(use)),
] as const;
