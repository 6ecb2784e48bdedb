import { CHANNEL_WORDS, type Channel } from '../core/workflow/channel.ts';
import type { StopReason } from '../core/workflow/plan.ts';
import type { RunContext } from '../core/workflow/run-context.ts';

/**
 * Whether this person may be written to. Consent withdrawn stops every message; consent never given stops those that
 * were set to need it.
 */
export function mayNotWrite(context: RunContext, channel: Channel, needsConsent: boolean): StopReason | null {
  const state = context.consent[channel];
  if (state === 'withdrawn')
    return { code: 'withdrawn', text: `Stopped: asked for no more ${CHANNEL_WORDS[channel].many}`, channel };
  if (needsConsent && state !== 'given')
    return { code: 'no_consent', text: `Stopped: no consent to ${CHANNEL_WORDS[channel].many}`, channel };
  return null;
}
