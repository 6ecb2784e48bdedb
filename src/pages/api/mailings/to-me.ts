import { z } from 'zod';
import { mailingToMe } from '../../../app/send-to-me.ts';
import { EmailSettings } from '../../../steps/email/definition.ts';
import { takes } from '../../../web/endpoint.ts';

const Input = z.object({ email: EmailSettings });
export const POST = takes(Input, (use, { email }) => mailingToMe(use, email));
