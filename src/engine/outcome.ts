import { LANES } from '../core/workflow/definition.ts';
import type { Plan } from '../core/workflow/plan.ts';
import type { RunState } from '../db/entities/run.ts';
import type { StepRecord } from './leased-run.ts';

const NAMES: Record<string, string> = { text: 'Text', email: 'Email' };

function words(record: StepRecord): string | null {
  const { plan } = record;
  if (plan.does !== 'send') return plan.does === 'ask' ? plan.why.text : null;
  const name = plan.message.audience === 'team' ? 'Team told' : NAMES[plan.message.channel]!;
  if (record.state === 'refused')
    return plan.message.audience === 'team' ? 'Team could not be told' : `${name} refused`;
  if (record.state === 'again') return `${name} is tried again`;
  return plan.message.audience === 'team' ? name : `${name} sent`;
}

const stopText = (plan: Plan) => (plan.does === 'nothing' && plan.why.code !== 'switched_off' ? plan.why.text : null);

/** A run's state and its line in the log, from what its steps came to. */
export function runOutcome(records: readonly StepRecord[]): { state: RunState; outcome: string } {
  const told = LANES.flatMap((place) => records.filter((record) => record.place === place));
  const said = told.map(words).filter((text) => text !== null);
  if (records.some((record) => record.state === 'refused' || record.state === 'ask'))
    return { state: 'needs_you', outcome: said.join(', ') };
  const toLead = told.filter((record) => record.place === 'lead' && record.state !== 'skipped');
  const stopped = toLead.map((record) => stopText(record.plan)).filter((text) => text !== null);
  const sent = toLead.some((record) => record.state === 'done' && record.plan.does === 'send');
  if (!sent && stopped.length > 0) return { state: 'stopped', outcome: stopped[0]! };
  return { state: 'done', outcome: [...new Set([...said, ...stopped])].join(', ') };
}
