/** What a message is for. `service` is about what they asked for or bought; `marketing` wants to sell or to keep in touch. */
export const PURPOSES = ['service', 'marketing'] as const;
export type Purpose = (typeof PURPOSES)[number];

export const PURPOSE_WORDS: Record<Purpose, string> = {
  service: 'about what they asked for',
  marketing: 'news and offers',
};
