import type { Thing } from '../components/found-things.ts';
import type { Catalogue } from '../core/workflow/step-kind.ts';

/** Chat templates to choose from, those that are not approved told apart. */
export const chatTemplateThings = ({ chatTemplates }: Catalogue): Thing[] =>
  chatTemplates.map(({ id, name, approved }) => ({ id, name: approved ? name : `${name} (not approved)` }));
