import type { Catalogue } from '../core/workflow/step-kind.ts';

/** Chat templates to choose from, those that are not approved told apart. */
export const chatTemplateOptions = ({ chatTemplates }: Catalogue): (readonly [id: string, name: string])[] => [
  ['', 'Choose a chat template'],
  ...chatTemplates.map(({ id, name, approved }) => [id, approved ? name : `${name} (not approved)`] as const),
];
