import { z } from 'zod';
import type { SourceSetup } from '../source-module.ts';
import type { ImportSettings } from './definition.ts';

const Input = z.object({ name: z.string().trim().min(1, 'Give the import a name').max(100) });
type Input = z.infer<typeof Input>;

export const importSetup: SourceSetup<Input, ImportSettings> = {
  input: Input,
  prepare: async (_ports, { name }) => ({ ok: true, name, settings: { columns: [], tab: null } }),
};
