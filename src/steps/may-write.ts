import { CHANNEL_WORDS, type Channel } from '../core/workflow/channel.ts';
import type { StopReason } from '../core/workflow/plan.ts';
import type { Purpose } from '../core/workflow/purpose.ts';
import type { RunContext } from '../core/workflow/run-context.ts';

/** How a message is to go by consent, as a step says it. */
export interface ByConsent {
  needsConsent: boolean;
  purpose?: Purpose;
}

/**
 * Whether this person may be written to. Consent withdrawn stops every message; consent never given stops those that were set to
 * need it, and all news and offers.
 */
export function mayNotWrite(
  context: Pick<RunContext, 'consent' | 'marketing'>,
  channel: Channel,
  { needsConsent, purpose = 'service' }: ByConsent,
): StopReason | null {
  const { one, many } = CHANNEL_WORDS[channel];
  const withdrawn = (text: string): StopReason => ({ code: 'withdrawn', text, channel });
  const missing = (text: string): StopReason => ({ code: 'no_consent', text, channel });
  if (context.consent[channel] === 'withdrawn') return withdrawn(`Stopped: asked for no more ${many}`);
  if (context.consent[channel] === 'doubted' || context.marketing[channel] === 'doubted')
    return withdrawn(`Stopped: may have asked for no more ${many}; somebody has to read what they wrote`);
  if (purpose === 'marketing') {
    const state = context.marketing[channel];
    const by = `news and offers by ${one.toLowerCase()}`;
    if (state === 'withdrawn') return withdrawn(`Stopped: asked for no more ${by}`);
    return state === 'given' ? null : missing(`Stopped: no consent to ${by}`);
  }
  if (needsConsent && context.consent[channel] !== 'given') return missing(`Stopped: no consent to ${many}`);
  return null;
}
