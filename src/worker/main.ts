/** The worker process: takes up runs that are due or were left behind, and does the jobs of graphile-worker. */
import { Logger, run } from 'graphile-worker';
import { openPool } from '../db/pool.ts';
import { log } from '../log.ts';
import { openMachinery } from '../machinery.ts';
import { stopWithParent } from '../stop-with-parent.ts';
import { answerParent } from '../watched.ts';
import { sendAccountMail } from './account-mail.ts';
import { housekeeping } from './housekeeping.ts';
import { sendMonthPages } from './month-pages.ts';
import { sendMorningSummaries } from './morning-summaries.ts';

// Without the object mapper, which is for screens: a worker that has died is back a second sooner.
const runtime = openMachinery();
const jobs = openPool(runtime.settings.databaseUrl, 4);
let stopping = false;
const runner = await run({
  pgPool: jobs,
  concurrency: 2,
  // What is put in is told at once; this finds what was put off.
  pollInterval: 5000,
  noHandleSignals: true,
  // Only what somebody should look at.
  logger: new Logger(() => (level, message) => {
    if (level === 'error' || level === 'warning') log.error({ scope: 'jobs' }, message);
  }),
  taskList: {
    housekeeping: () => housekeeping(runtime, () => stopping),
    unfetched: () => runtime.puller.lookAtUnfetched(),
    reviews: () => runtime.reviews.ask(),
    grants: () => runtime.grants.renewUnused(),
    months: () => sendMonthPages(runtime),
    mornings: () => sendMorningSummaries(runtime),
    seal: () => runtime.pool.query('select seal_audit()').then(() => {}),
    account_mail: (what) => sendAccountMail(runtime, what as { invitation?: string; reset?: string }),
  },
  crontab: [
    '17 * * * * housekeeping ?jobKey=housekeeping',
    '*/15 * * * * unfetched ?jobKey=unfetched',
    '23 * * * * grants ?jobKey=grants',
    '* * * * * reviews ?jobKey=reviews',
    '*/10 * * * * months ?jobKey=months',
    '* * * * * mornings ?jobKey=mornings',
    '* * * * * seal ?jobKey=seal',
  ].join('\n'),
});
runtime.startLoops();
process.stdout.write(`ready ${JSON.stringify({ pid: process.pid })}\n`);

async function stop(): Promise<void> {
  if (stopping) return;
  stopping = true;
  await Promise.all([runner.stop(), runtime.close()]);
  await jobs.end();
  process.exit(0);
}
for (const signal of ['SIGTERM', 'SIGINT'] as const) process.on(signal, () => void stop());
stopWithParent(() => void stop());
answerParent();
