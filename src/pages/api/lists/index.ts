import { z } from 'zod';
import { createList } from '../../../app/lists.ts';
import { changes } from '../../../web/endpoint.ts';

const Input = z.object({ name: z.string().trim().min(1, 'Give the list a name').max(60) });
export const POST = changes(Input, (use, { name }) => createList(use, name));
