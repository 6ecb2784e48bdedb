import { z } from 'zod';

/** Nobody is served in chat until they have filled in the first-contact form. */
export const FrontDoor = z.object({
  on: z.boolean().default(false),
  /** The chat form, by id. */
  form: z.string().max(60).default(''),
  /** What comes with the form: a template. */
  message: z
    .string()
    .trim()
    .max(1000)
    .default('Hello! Before we begin, please tell us in a few lines who you are. It takes half a minute.'),
  /** The form is not sent again within this long. */
  everyMinutes: z.number().int().min(1).max(1440).default(10),
  /** Once they are through: a template, empty for none. */
  greeting: z.string().trim().max(1000).default('Thank you, {{ lead.first_name }}! What can we do for you?'),
});
export type FrontDoor = z.infer<typeof FrontDoor>;
