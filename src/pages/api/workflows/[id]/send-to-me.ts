import { z } from 'zod';
import { sendToMe } from '../../../../app/send-to-me.ts';
import { takes } from '../../../../web/endpoint.ts';

const Input = z.object({ stepId: z.string().max(40), arrivalId: z.uuid().nullable() });
export const POST = takes(Input, (use, { stepId, arrivalId }, { id }) => sendToMe(use, id!, stepId, arrivalId));
