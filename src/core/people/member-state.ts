/** `active` gets what is sent; every other state gets nothing. */
export const MEMBER_STATES = ['waiting', 'active', 'unsubscribed', 'bounced', 'complained', 'cleaned'] as const;
export type MemberState = (typeof MEMBER_STATES)[number];

/** As people say it. */
export const MEMBER_STATE_WORDS: Record<MemberState, string> = {
  active: 'On the list',
  waiting: 'Waiting to confirm',
  unsubscribed: 'Left',
  bounced: 'Not reached',
  complained: 'Complained',
  cleaned: 'Cleaned',
};
