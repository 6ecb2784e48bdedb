import { z } from 'zod';

/**
 * `schema.safeParse(value)` for what somebody outside may have made. Where a text is asked for and an object comes whose `length` cannot be compared
 * (`{"length":{"toString":""}}`), Zod 4 throws from its check of the length instead of saying that it is no text.
 */
export function readAs<S extends z.ZodType>(schema: S, value: unknown): z.ZodSafeParseResult<z.output<S>> {
  try {
    return schema.safeParse(value);
  } catch {
    const message = 'Something in it is of another kind than it should be';
    const error = new z.ZodError([{ code: 'custom', path: [], message, input: undefined }]);
    return { success: false, error: error as z.ZodError<z.output<S>> };
  }
}
