import { within } from '../client/within.ts';
/** Sends a file to our own API as it is. Throws what the server said was wrong, in words for the person. */
export async function sendFile<T>(path: string, file: File): Promise<T> {
  const answer = await fetch(within(`${path}${path.includes('?') ? '&' : '?'}name=${encodeURIComponent(file.name)}`), {
    method: 'POST',
    body: file,
  });
  const body = (await answer.json().catch(() => null)) as (T & { detail?: string }) | null;
  if (!answer.ok || !body) throw new Error(body?.detail ?? 'The file could not be taken. Try again in a moment.');
  return body;
}
