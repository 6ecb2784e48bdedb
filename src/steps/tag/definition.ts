import { z } from 'zod';
import type { StepKind } from '../../core/workflow/step-kind.ts';

const Settings = z.object({ action: z.enum(['add', 'remove']), tag: z.string().max(60) });
export type TagSettings = z.infer<typeof Settings>;
export type TagDone = { action: 'add' | 'remove'; tag: string };

/** Puts a tag on the lead, or takes it off. */
export const tag: StepKind<TagSettings> = {
  kind: 'tag',
  label: 'Tag the lead',
  icon: 'tag',
  places: ['record'],
  settings: Settings,
  blank: () => ({ action: 'add', tag: '' }),
  card: ({ action, tag }, catalogue) => {
    const name = catalogue.tags.find((one) => one.id === tag)?.name;
    return { title: name ? `${action === 'add' ? 'Tag' : 'Take off'}: ${name}` : 'Tag the lead', line: '' };
  },
  aloud: ({ action, tag }, catalogue) => {
    const found = catalogue.tags.find((one) => one.id === tag);
    const which = found ? `the tag ${found.name}` : 'a tag';
    return action === 'add' ? `give them ${which}` : `take ${which} off`;
  },
  check: ({ tag }, { catalogue }) =>
    tag === ''
      ? [{ weight: 'must', code: 'empty', text: 'Tag: choose a tag.', field: 'tag' }]
      : catalogue.tags.some((one) => one.id === tag)
        ? []
        : [{ weight: 'must', code: 'gone', text: 'Tag: the tag chosen is no longer there.', field: 'tag' }],
  templates: () => [],
  plan: ({ action, tag }, { context, catalogue }) => {
    const name = catalogue.tags.find((one) => one.id === tag)?.name;
    if (!name) return { does: 'ask', why: { code: 'gone', text: 'The tag of this step is no longer there' } };
    const has = context.tags.includes(tag);
    if (has === (action === 'add'))
      return {
        does: 'nothing',
        why: { code: 'empty', text: has ? `Has the tag ${name} already` : `Has no tag ${name}` },
      };
    return {
      does: 'record',
      words: action === 'add' ? `Tag: ${name}` : `Takes off the tag ${name}`,
      what: { action, tag } satisfies TagDone,
      sets: [{ reference: `tag.${tag}`, value: action === 'add' ? 'yes' : '' }],
    };
  },
};
