/**
 * The header by which a mail of Pine Bell's own is known again, where it comes into a mailbox that is listened to: a colleague who is told of a lead at
 * such an address would else be told of what was told, without end. RFC 5322 §3.6.8 leaves such fields to whoever needs them.
 */
export const OURS = 'X-Pine-Bell';
