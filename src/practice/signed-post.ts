import { createHmac } from 'node:crypto';
import { request } from 'node:http';

export interface PostResult {
  /** Null when no answer came. */
  status: number | null;
  ms: number;
  body: string;
}

/** Posts JSON signed in the Standard Webhooks way; written here again on purpose, so that both sides are checked. */
export function signedPost(
  url: string,
  secret: string,
  id: string,
  value: unknown,
  spoil = false,
): Promise<PostResult> {
  const body = JSON.stringify(value);
  const timestamp = String(Math.floor(Date.now() / 1000));
  const key = Buffer.from(secret.replace(/^whsec_/, ''), 'base64');
  const signature = createHmac('sha256', key)
    .update(`${id}.${timestamp}.${body}${spoil ? ' ' : ''}`)
    .digest('base64');
  const began = performance.now();
  return new Promise((resolve) => {
    const done = (status: number | null, text: string) =>
      resolve({ status, ms: Math.round(performance.now() - began), body: text });
    const call = request(
      url,
      {
        method: 'POST',
        timeout: 10_000,
        headers: {
          'content-type': 'application/json',
          'content-length': Buffer.byteLength(body),
          'webhook-id': id,
          'webhook-timestamp': timestamp,
          'webhook-signature': `v1,${signature}`,
        },
      },
      (answer) => {
        let text = '';
        answer.setEncoding('utf8');
        answer.on('data', (chunk: string) => {
          text += chunk;
        });
        answer.on('end', () => done(answer.statusCode ?? null, text));
      },
    );
    call.on('timeout', () => call.destroy(new Error('no answer within 10 s')));
    call.on('error', (error) => done(null, error.message));
    call.end(body);
  });
}
