import { z } from 'zod';
import { createSequence } from '../../../../app/sequences.ts';
import { changes } from '../../../../web/endpoint.ts';

const Input = z.object({ name: z.string().trim().min(1, 'Give the sequence a name').max(120) });
export const POST = changes(Input, (use, { name }, { id }) => createSequence(use, id!, name));
