import { z } from 'zod';
import { flatten } from '../../core/fields/flatten.ts';
import type { SourceKind } from '../../core/source/source-kind.ts';

const Settings = z.object({ listId: z.uuid() });
export type ListSourceSettings = z.infer<typeof Settings>;

/** Somebody joins a list: made with the list, and what its sequences listen to. */
export const listSource: SourceKind<ListSourceSettings> = {
  kind: 'list',
  label: 'List',
  about: 'Somebody joins one of your lists.',
  icon: 'list-plus',
  settings: Settings,
  brings: 'people',
  comesBy: 'inside',
  changeable: [],
  signedBy: () => ({ way: 'nobody' }),
  read: (raw) => {
    const flat = flatten(JSON.parse(Buffer.from(raw.body).toString('utf8') || '{}'));
    return flat.ok
      ? { ok: true, entries: [{ externalId: null, fields: flat.fields, whereFrom: {} }] }
      : { ok: false, code: flat.problem, problem: 'What was known of this person cannot be read.' };
  },
};
