import { CHANNEL_WORDS } from '../../core/workflow/channel.ts';
import { LANES } from '../../core/workflow/definition.ts';
import type { Plan } from '../../core/workflow/plan.ts';
import type { RunState } from '../../db/entities/run.ts';
import type { StepRecord } from './leased-run.ts';

/** First too: a check that stops, a look-up that fails. */
const PLACES = ['first', ...LANES] as const;

function words(record: StepRecord): string | null {
  const { plan } = record;
  if (plan.does === 'end') return plan.why.text;
  if (plan.does !== 'send')
    return plan.does === 'ask'
      ? plan.why.text
      : record.state === 'refused'
        ? 'A step failed'
        : record.state === 'again' && record.place === 'first'
          ? 'Waiting to look something up'
          : null;
  const name = plan.message.audience === 'team' ? 'Team told' : CHANNEL_WORDS[plan.message.channel].one;
  if (plan.draft) return `${name} to be read and sent`;
  if (record.state === 'held') return `${name} is held`;
  if (record.instead?.does === 'send') {
    const other = CHANNEL_WORDS[record.instead.message.channel].one.toLowerCase();
    return `${name} refused, ${other} ${record.state === 'done' ? 'sent instead' : record.state === 'again' ? 'is tried instead' : 'refused too'}`;
  }
  if (record.state === 'refused')
    return plan.message.audience === 'team' ? 'Team could not be told' : `${name} refused`;
  if (record.state === 'again') return `${name} is tried again`;
  return plan.message.audience === 'team' ? name : `${name} sent`;
}

/** Reasons that are as the coordinator wants it, and not worth a word in the log. */
const QUIET = new Set<string>(['switched_off', 'guard', 'lane_stopped', 'not_repeated', 'empty', 'not_found']);
const stopText = (plan: Plan) => (plan.does === 'nothing' && !QUIET.has(plan.why.code) ? plan.why.text : null);

/** A run's state and its line in the log, from what its steps came to. */
export function runOutcome(records: readonly StepRecord[]): { state: RunState; outcome: string } {
  const told = [...PLACES].flatMap((place) => records.filter((record) => record.place === place));
  const said = told.map(words).filter((text) => text !== null);
  if (records.some((record) => record.state === 'refused' || record.state === 'ask'))
    return { state: 'needs_you', outcome: said.join(', ') };
  const ended = records.find((record) => record.plan.does === 'end');
  const toLead = told.filter((record) => record.place === 'lead' && record.state !== 'skipped');
  const stopped = toLead.map((record) => stopText(record.plan)).filter((text) => text !== null);
  const sent = toLead.some((record) => record.state === 'done' && record.plan.does === 'send');
  if (!sent && ended?.plan.does === 'end') return { state: 'stopped', outcome: ended.plan.why.text };
  if (!sent && stopped.length > 0) return { state: 'stopped', outcome: stopped[0]! };
  return { state: 'done', outcome: [...new Set([...said, ...stopped])].join(', ') };
}
