import { z } from 'zod';
import { changeMember } from '../../../../../app/lists.ts';
import { takes } from '../../../../../web/endpoint.ts';

const Input = z.object({ on: z.boolean() });
export const PUT = takes(Input, (use, { on }, { id, lead }) => changeMember(use, id!, lead!, on));
