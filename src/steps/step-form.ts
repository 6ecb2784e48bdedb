import type { Plan } from '../core/workflow/plan.ts';
import type { Catalogue } from '../core/workflow/step-kind.ts';

/** What the form of a step is given. */
export interface StepFormProps<Settings> {
  stepId: string;
  settings: Settings;
  change: (patch: Partial<Settings>) => void;
  catalogue: Catalogue;
  /** What this step would do for the sample lead; null without one. */
  plan: Plan | null;
  /** The sample lead's first name, for "What Nadia gets". */
  sampleName: string;
  /** Makes something a step can refer to, in place. */
  make: (what: 'tag' | 'list' | 'pipeline', name: string) => Promise<{ id: string }>;
  /** Makes a sheet with these columns, in place; its one tab comes back. */
  makeSheet: (name: string, columns: string[]) => Promise<{ id: string; columns: { id: string; name: string }[] }>;
  /** Gives a tab one more column. */
  addColumn: (tabId: string, name: string) => Promise<void>;
  /** Gives a list one more field of its own. */
  addField: (listId: string, name: string) => Promise<void>;
}
