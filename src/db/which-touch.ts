import type { TouchGroup } from '../core/source/touches.ts';

/** Which touch of the lead `l` is meant, as SQL behind "from touch t where t.lead_id = l.id". A run and a segment ask by the same words. */
export const WHICH_TOUCH: Readonly<Record<TouchGroup, string>> = {
  first_touch: 'order by t.at, t.id limit 1',
  last_touch: 'order by t.at desc, t.id desc limit 1',
  booking_touch: `and t.at <= (select max(a.received_at) from arrival a where a.lead_id = l.id and a.means = 'booked') order by t.at desc, t.id desc limit 1`,
};
