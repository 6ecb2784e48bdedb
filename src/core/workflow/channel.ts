/** The ways a person can be written to. */
export const CHANNELS = ['text', 'email', 'chat'] as const;
export type Channel = (typeof CHANNELS)[number];

/** What one message, several, are called. */
export const CHANNEL_WORDS: Record<Channel, { one: string; many: string }> = {
  text: { one: 'Text', many: 'texts' },
  email: { one: 'Email', many: 'emails' },
  chat: { one: 'Chat message', many: 'chat messages' },
};
