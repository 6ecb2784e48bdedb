/** What a message is for. `service` is about what they asked for or bought; `marketing` wants to sell or to keep in touch. */
export const PURPOSES = ['service', 'marketing'] as const;
export type Purpose = (typeof PURPOSES)[number];

/** When news and offers that were one too many for a day go out, by the business's clock. */
export const NEWS_AT = '09:00';

export const PURPOSE_WORDS: Record<Purpose, string> = {
  service: 'about what they asked for',
  marketing: 'news and offers',
};
