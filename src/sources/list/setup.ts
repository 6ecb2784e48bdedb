import { z } from 'zod';
import type { SourceSetup } from '../source-module.ts';
import type { ListSourceSettings } from './definition.ts';

const Input = z.object({ name: z.string().trim().min(1).max(100), listId: z.uuid() });
type Input = z.infer<typeof Input>;

/** Nothing to arrange outside. */
export const listSetup: SourceSetup<Input, ListSourceSettings> = {
  input: Input,
  prepare: async (_ports, { name, listId }) => ({ ok: true, name, settings: { listId } }),
};
