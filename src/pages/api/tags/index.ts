import { z } from 'zod';
import { createTag } from '../../../app/tags.ts';
import { changes } from '../../../web/endpoint.ts';

const Input = z.object({ name: z.string().trim().min(1, 'Give the tag a name').max(60) });
export const POST = changes(Input, (use, { name }) => createTag(use, name));
