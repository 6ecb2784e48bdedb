/**
 * Makes the demo business the way a person would, then gives it two weeks of history, and two months of campaigns. Run again, or with DEMO_BUILD=0 for a business of its own that has
 * its practice world on, it only lines up addresses.
 */
import { alignPractice } from '../app/account/practice-world.ts';
import { openUse } from '../app/use.ts';
import { getRuntime } from '../runtime.ts';
import { bookedPast } from './booked-past.ts';
import { buildDemo } from './build.ts';
import { campaignResults } from './campaigns-past.ts';
import { chatPast } from './chat-past.ts';
import { growChat } from './chat-world.ts';
import { growConversations } from './conversing.ts';
import { growTrialSheet } from './full-sheet.ts';
import { writeHistory } from './history.ts';
import { growNurture, growPipeline } from './nurture.ts';

const env = process.env;
const runtime = await getRuntime();
const { practice } = runtime.settings;
if (!practice) throw new Error('The demo needs the practice desk: PRACTICE_URL, PRACTICE_SMTP_URL and PRACTICE_TOKEN.');
const { rows } = await runtime.pool.query('select 1 from person limit 1');
if (rows.length === 0 && env.DEMO_BUILD !== '0') {
  const made = await buildDemo(runtime, practice);
  if (env.DEMO_HISTORY !== '0') {
    await writeHistory(runtime, made, Number(env.DEMO_SEED ?? 20261125));
    const forked = () => openUse(runtime, made.actor);
    const tips = await growNurture(forked());
    await growPipeline(forked());
    await bookedPast(forked());
    await campaignResults(forked(), Number(env.DEMO_SEED ?? 20261125));
    await growConversations(forked());
    await growChat(forked());
    await chatPast(forked(), Number(env.DEMO_SEED ?? 20261125));
    await growTrialSheet(forked(), made.trialWorkflow, tips);
  }
} else await alignPractice(runtime);
await runtime.close();
process.stdout.write('ready {}\n');
