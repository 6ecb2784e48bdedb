/** Makes the demo business the way a person would, then gives it two weeks of history. Run again, it only lines up addresses. */
import { openUse } from '../app/use.ts';
import { getRuntime } from '../runtime.ts';
import { alignAddresses } from './align-addresses.ts';
import { buildDemo } from './build.ts';
import { growChat } from './chat-world.ts';
import { growConversations } from './conversing.ts';
import { growTrialSheet } from './full-sheet.ts';
import { writeHistory } from './history.ts';
import { growNurture, growPipeline } from './nurture.ts';

const env = process.env;
const practice = { url: env.PRACTICE_URL!, smtp: env.PRACTICE_SMTP_URL!, token: env.PRACTICE_TOKEN! };
const runtime = await getRuntime();
const { rows } = await runtime.pool.query('select 1 from person limit 1');
if (rows.length === 0) {
  const made = await buildDemo(runtime, practice);
  if (env.DEMO_HISTORY !== '0') {
    await writeHistory(runtime, made, Number(env.DEMO_SEED ?? 20261125));
    const forked = () => openUse(runtime, made.actor);
    const tips = await growNurture(forked());
    await growPipeline(forked());
    await growConversations(forked());
    await growChat(forked());
    await growTrialSheet(forked(), made.trialWorkflow, tips);
  }
} else await alignAddresses(runtime, practice);
await runtime.close();
process.stdout.write('ready {}\n');
