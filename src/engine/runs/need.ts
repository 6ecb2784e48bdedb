import { v7 as uuidv7 } from 'uuid';
import { CHANNEL_WORDS, type Channel } from '../../core/workflow/channel.ts';

export interface NeedSubject {
  runId: string;
  businessId: string;
  leadId: string;
  stepId: string;
  /** As the coordinator knows them. */
  who: string;
  sourceName: string;
}

const TITLES = {
  message_refused: (what: string) => `${what} refused`,
  message_lost: (what: string) => `${what} not delivered`,
  message_unsure: (what: string) => `${what} may have gone out`,
  step_asks: (what: string) => `${what} could not be done`,
  step_failed: () => 'A step failed',
  draft_waits: (what: string) => `${what} to read and send`,
};

/** A row for the pile of things only a person can settle. `at` in milliseconds; `detail` is what was answered. */
export function needRow(
  kind: keyof typeof TITLES,
  about: NeedSubject,
  channel: Channel | null,
  audience: 'lead' | 'team',
  detail: string,
  at: number,
) {
  const what = audience === 'team' ? 'Message to a colleague' : channel ? CHANNEL_WORDS[channel].one : 'A step';
  const sentence = /[.!?]$/.test(detail) ? detail : `${detail}.`;
  return {
    id: uuidv7({ msecs: at }),
    business_id: about.businessId,
    kind,
    subject: `run:${about.runId}:step:${about.stepId}`,
    title: TITLES[kind](what),
    detail: `${about.who}, ${about.sourceName}. ${sentence}`,
    run_id: about.runId,
    step_id: about.stepId,
    lead_id: about.leadId,
    created_at: new Date(at).toISOString(),
  };
}
