/** The practice desk as a process of its own. It talks to Pine Bell only over the network. */
import { join } from 'node:path';
import { serveFile } from '../static-files.ts';
import { stopWithParent } from '../stop-with-parent.ts';
import { answerParent } from '../watched.ts';
import { openDesk } from './desk.ts';

const env = process.env;
const desk = await openDesk({
  port: Number(env.PRACTICE_PORT ?? 4690),
  smtpPort: Number(env.PRACTICE_SMTP_PORT ?? 4691),
  token: env.PRACTICE_TOKEN ?? 'practice',
  inboundMail: env.PINEBELL_MAIL_PORT ? `smtp://127.0.0.1:${env.PINEBELL_MAIL_PORT}` : null,
  file: env.PRACTICE_FILE ?? null,
  trickle: env.PRACTICE_TRICKLE === '1',
  backTo: env.PINEBELL_URL ?? 'http://127.0.0.1:4680',
  files: serveFile(join(import.meta.dirname, 'practice-page')),
});
process.stdout.write(`ready ${JSON.stringify({ url: desk.url, smtp: desk.smtpUrl, pid: process.pid })}\n`);
const stop = () => void desk.close().then(() => process.exit(0));
for (const signal of ['SIGTERM', 'SIGINT'] as const) process.on(signal, stop);
stopWithParent(stop);
answerParent();
