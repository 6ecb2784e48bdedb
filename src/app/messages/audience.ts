import { z } from 'zod';
import { choiceOf } from '../../core/people/audience.ts';
import { LEFT_OUT, type Reach, type ReachedPerson } from '../../core/people/left-out.ts';
import { readAs } from '../../core/read-as.ts';
import { PURPOSES } from '../../core/workflow/purpose.ts';
import { audienceOf } from '../../steps/mailing/definition.ts';
import { choose } from '../leads/choosing.ts';
import { notHere, Refusal } from '../refusal.ts';
import type { Use } from '../use.ts';
import { catalogueFor } from '../workflows/sample.ts';

/** What is asked of an audience: `to` is "list:ID", "tag:ID" or "segment:ID". */
export const AudienceAsked = z.object({
  to: z.string().max(80),
  consent: z.enum(['given', '']).default(''),
  purpose: z.enum(PURPOSES).default('service'),
});
type Asked = z.infer<typeof AudienceAsked>;

async function chosenBy(use: Use, { to }: Asked) {
  const whom = audienceOf(to, await catalogueFor(use));
  if (!whom) throw notHere('list, segment or tag');
  return choose(use, choiceOf(whom.audience));
}
const emailOf = ({ consent, purpose }: Asked) => ({ needsConsent: consent === 'given', purpose });

/** How many an email would go to, and why not to the rest. */
export const countAudience = async (use: Use, asked: Asked): Promise<Reach> =>
  (await chosenBy(use, asked)).countReached(emailOf(asked));

export const PeopleAsked = AudienceAsked.extend({
  code: z.enum(['reached', ...LEFT_OUT]),
  after: z.uuid().nullable().default(null),
});

const AT_ONCE = 50;

/** Who stands behind one of the numbers. */
export const listAudience = async (
  use: Use,
  asked: z.infer<typeof PeopleAsked>,
): Promise<{ people: ReachedPerson[]; next: string | null }> =>
  (await chosenBy(use, asked)).listReached(emailOf(asked), asked.code, asked.after, AT_ONCE);

/** A query of an address, read by its schema. */
export function askedOf<S extends z.ZodType>(schema: S, query: URLSearchParams): z.infer<S> {
  const read = readAs(schema, Object.fromEntries(query));
  if (!read.success) throw new Refusal(422, 'input', read.error.issues[0]?.message ?? 'Something is missing.');
  return read.data;
}
