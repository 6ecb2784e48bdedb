import { namesOf } from '../words/names-of.ts';

export type MemberState = keyof typeof MEMBER_STATE_WORDS;

/** As people say it. `active` gets what is sent; every other state gets nothing. */
export const MEMBER_STATE_WORDS = {
  waiting: 'Waiting to confirm',
  active: 'Subscribed',
  unsubscribed: 'Unsubscribed',
  bounced: 'Bounced',
  complained: 'Complained',
  cleaned: 'Cleaned',
};
export const MEMBER_STATES = namesOf(MEMBER_STATE_WORDS);
