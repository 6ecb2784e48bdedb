/** What the server said was wrong, in words for the person. */
export class Problem extends Error {
  constructor(
    readonly status: number,
    message: string,
    readonly field: string | null,
    /** Which refusal it was: "in-use". */
    readonly code: string,
  ) {
    super(message);
  }
}

/** Calls our own API; `seen` says what was looked at before it was changed. Throws a Problem whose message can be shown as it is. */
export async function call<T>(
  method: 'GET' | 'POST' | 'PUT' | 'DELETE',
  path: string,
  body?: unknown,
  seen?: string,
): Promise<T> {
  let answer: Response;
  try {
    answer = await fetch(path, {
      method,
      headers: { 'content-type': 'application/json', ...(seen === undefined ? {} : { 'if-match': `"${seen}"` }) },
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    });
  } catch {
    throw new Problem(0, 'Pine Bell does not answer. Check your connection; what you typed is still here.', null, '');
  }
  const value = (await answer.json().catch(() => null)) as {
    type?: string;
    detail?: string;
    field?: string;
  } | null;
  if (!answer.ok)
    throw new Problem(
      answer.status,
      value?.detail ?? 'Something went wrong. Try again in a moment.',
      value?.field ?? null,
      value?.type?.replace('urn:pine-bell:', '') ?? '',
    );
  return value as T;
}

export const messageOf = (error: unknown): string => (error instanceof Error ? error.message : String(error));
