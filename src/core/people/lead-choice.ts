import { z } from 'zod';
import { Condition } from '../condition/condition.ts';
import { MEMBER_STATES } from './member-state.ts';

/** Which leads are meant: everything that is said must hold; nothing said is everybody. */
export const LeadChoice = z.object({
  /** Exactly these, as ticked one by one. */
  ids: z.array(z.uuid()).min(1).max(1000).nullable().default(null),
  /** Part of a name, an email or a number. */
  search: z.string().max(200).default(''),
  segment: z.uuid().nullable().default(null),
  condition: Condition.nullable().default(null),
  list: z
    .object({ id: z.uuid(), state: z.enum(MEMBER_STATES).nullable().default(null) })
    .nullable()
    .default(null),
  tag: z.uuid().nullable().default(null),
  /** Those who came in by this source. */
  source: z.uuid().nullable().default(null),
});
export type LeadChoice = z.infer<typeof LeadChoice>;

export const EVERYBODY: LeadChoice = LeadChoice.parse({});

/** Whether nothing narrows the choice, but for a list as a whole. */
export const isEverybody = ({ ids, search, segment, condition, list, tag, source }: LeadChoice): boolean =>
  ids === null &&
  search.trim() === '' &&
  segment === null &&
  condition === null &&
  tag === null &&
  source === null &&
  !list?.state;
