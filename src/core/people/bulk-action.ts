import { z } from 'zod';

/** What can be done with many leads at once. */
export const BulkAction = z.discriminatedUnion('does', [
  z.object({ does: z.literal('tag'), tag: z.uuid('Choose a tag') }),
  z.object({ does: z.literal('untag'), tag: z.uuid('Choose a tag') }),
  z.object({
    does: z.literal('join'),
    list: z.uuid('Choose a list'),
    /** They have agreed already: a list that asks does not ask again. */
    proven: z.boolean().default(false),
  }),
  z.object({ does: z.literal('leave'), list: z.uuid('Choose a list') }),
  /** Off the list by our own wish, because writing to them leads to nothing. */
  z.object({ does: z.literal('clean'), list: z.uuid('Choose a list') }),
  z.object({ does: z.literal('owner'), person: z.uuid().nullable() }),
  z.object({ does: z.literal('erase') }),
]);
export type BulkAction = z.infer<typeof BulkAction>;

interface Named {
  id: string;
  name: string;
}

/** What is done, in words that go on from "Do with 12 leads:" and stand alone in the list of what was done. */
export function bulkWords(
  action: BulkAction,
  catalogue: { tags: readonly Named[]; lists: readonly Named[]; colleagues: readonly Named[] },
): string {
  const name = (all: readonly Named[], id: string) => all.find((named) => named.id === id)?.name;
  switch (action.does) {
    case 'tag':
      return `Tag them ${name(catalogue.tags, action.tag) ?? 'with a tag that is gone'}`;
    case 'untag':
      return `Take the tag ${name(catalogue.tags, action.tag) ?? 'that is gone'} off them`;
    case 'join':
      return `Put them on the list ${name(catalogue.lists, action.list) ?? 'that is gone'}`;
    case 'leave':
      return `Take them off the list ${name(catalogue.lists, action.list) ?? 'that is gone'}`;
    case 'clean':
      return `Clean them from the list ${name(catalogue.lists, action.list) ?? 'that is gone'}`;
    case 'owner':
      return action.person === null
        ? 'Give them to nobody'
        : `Give them to ${name(catalogue.colleagues, action.person) ?? 'a colleague who is gone'}`;
    case 'erase':
      return 'Erase them for good';
  }
}
