/** What somebody held in their hands, by what their browser says of itself; common practice, no source. */
export type Device = 'phone' | 'tablet' | 'computer';

export const deviceOf = (agent: string): Device =>
  /iPad|Tablet|Android(?!.*Mobile)/i.test(agent) ? 'tablet' : /Mobi|iPhone/i.test(agent) ? 'phone' : 'computer';
