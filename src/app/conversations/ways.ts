import { CHANNEL_WORDS, CHANNELS, type Channel } from '../../core/workflow/channel.ts';
import type { RunContext } from '../../core/workflow/run-context.ts';
import type { Catalogue } from '../../core/workflow/step-kind.ts';
import type { ConversationRecord } from './find-conversation.ts';

/** Whether we may answer on a channel right now, and what to know before. */
export interface Way {
  channel: Channel;
  can: boolean;
  /** In chat: an approved template may go, whether or not words may. */
  byTemplate: boolean;
  /** Why not; or what to know, empty when nothing. */
  words: string;
}

/** How somebody may be answered: by each channel, whether, and why not. `chatOpen`: the network takes our own words now. */
export function waysTo(
  row: Pick<ConversationRecord, 'lead_id' | 'email' | 'phone'>,
  { catalogue, consent, chatOpen }: { catalogue: Catalogue; consent: RunContext['consent']; chatOpen: boolean },
): Way[] {
  const way = (channel: Channel): Way => {
    const many = CHANNEL_WORDS[channel].many;
    const no = (words: string, byTemplate = false): Way => ({ channel, can: false, byTemplate, words });
    if (!catalogue[channel]) return no(`Nothing is connected that sends ${many}.`);
    if (!row.lead_id) return no('They are no lead yet, so they cannot be answered here.');
    if (consent[channel] === 'withdrawn') return no(`They want no more ${many}.`);
    if (channel === 'email' ? !row.email : !row.phone)
      return no(channel === 'email' ? 'No email address is known.' : 'No number is known.');
    if (channel === 'chat' && !chatOpen)
      return no('They have not written in chat for 24 hours: the network takes only an approved template now.', true);
    return {
      channel,
      can: true,
      byTemplate: channel === 'chat',
      words: consent[channel] === 'given' ? '' : `They never agreed to ${many}; answer what they asked.`,
    };
  };
  return CHANNELS.map(way);
}
