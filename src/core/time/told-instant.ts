import { z } from 'zod';

const inReason = (text: string): boolean => {
  const at = Date.parse(text);
  return at >= Date.UTC(1970, 0, 1) && at < Date.UTC(2200, 0, 1);
};

/** An instant that another side tells, ISO 8601: of years a database and a calendar can make something of. */
export const ToldInstant = z.iso.datetime({ offset: true }).refine(inReason, 'is a time out of reason');
