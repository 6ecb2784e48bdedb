import type { Catalogue } from '../core/workflow/step-kind.ts';
import type { Thing } from './found-things.ts';

/** Tabs of sheets to choose from; two of one name are told apart by their columns. */
export const tabThings = ({ tabs }: Catalogue): Thing[] =>
  tabs.map(({ id, name, columns }) => ({
    id,
    name,
    about: columns
      .slice(0, 6)
      .map((column) => column.name)
      .join(', '),
  }));
