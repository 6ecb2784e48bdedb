import { RefusalRead, readRefusal } from '../app/leads/read-refusal.ts';
import { sayWhoseNumber, WhoseNumber } from '../app/leads/whose-number.ts';
import { settleNeed } from '../app/today/needs-you.ts';
import { getToday } from '../app/today/today.ts';
import { liveStream } from '../web/live-stream.ts';
import { reads, writes, writesAlone } from './route.ts';

export const todayRoutes = [
  reads('/live', (use, _, __, { cookie, request }) => liveStream(use, cookie, request.signal)),
  writes('POST', '/needs/:need/refusal', RefusalRead, (tx, { means }, { need }) => readRefusal(tx, need, means)),
  writesAlone('POST', '/needs/:need/settle', (tx, { need }) => settleNeed(tx, need)),
  writes('POST', '/needs/:need/whose', WhoseNumber, (tx, { answer }, { need }) => sayWhoseNumber(tx, need, answer)),
  reads('/today', (use) => getToday(use)),
] as const;
