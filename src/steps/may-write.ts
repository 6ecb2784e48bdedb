import type { StopReason } from '../core/workflow/plan.ts';
import type { Channel, RunContext } from '../core/workflow/run-context.ts';

const NAMES: Record<Channel, string> = { text: 'texts', email: 'emails' };

/**
 * Whether this person may be written to. Consent withdrawn stops every message; consent never given stops those that
 * were set to need it.
 */
export function mayNotWrite(context: RunContext, channel: Channel, needsConsent: boolean): StopReason | null {
  const state = context.consent[channel];
  if (state === 'withdrawn')
    return { code: 'withdrawn', text: `Stopped: asked for no more ${NAMES[channel]}`, channel };
  if (needsConsent && state !== 'given')
    return { code: 'no_consent', text: `Stopped: no consent to ${NAMES[channel]}`, channel };
  return null;
}
