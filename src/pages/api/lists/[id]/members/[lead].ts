import { z } from 'zod';
import { changeMember, changeMemberFields } from '../../../../../app/lists.ts';
import { changes } from '../../../../../web/endpoint.ts';

const Input = z.union([
  z.object({ on: z.boolean() }),
  z.object({ fields: z.record(z.string().max(60), z.string().max(1000, 'A field holds 1,000 characters at most')) }),
]);
export const PUT = changes(Input, (use, input, { id, lead }) =>
  'on' in input ? changeMember(use, id!, lead!, input.on) : changeMemberFields(use, id!, lead!, input.fields),
);
