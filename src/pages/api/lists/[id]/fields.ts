import { z } from 'zod';
import { addListField } from '../../../../app/lists.ts';
import { changes } from '../../../../web/endpoint.ts';

const Input = z.object({ name: z.string().trim().min(1, 'Give the field a name').max(60) });
export const POST = changes(Input, (use, { name }, { id }) => addListField(use, id!, name));
