import { createHmac } from 'node:crypto';
import { request } from 'node:http';

export interface PostResult {
  /** Null when no answer came. */
  status: number | null;
  ms: number;
  body: string;
}

export type Signing = 'standard-webhooks' | 'body-hmac';

/** Both ways of signing are written here again on purpose, so that each side checks the other. */
function signature(
  signing: Signing,
  secret: string,
  { id, event }: { id: string; event: string },
  body: string,
): Record<string, string> {
  if (signing === 'body-hmac')
    return {
      'shop-event': event,
      'shop-delivery': id,
      'shop-signature': createHmac('sha256', secret).update(body).digest('base64'),
    };
  const timestamp = String(Math.floor(Date.now() / 1000));
  const key = Buffer.from(secret.replace(/^whsec_/, ''), 'base64');
  const mac = createHmac('sha256', key).update(`${id}.${timestamp}.${body}`).digest('base64');
  return { 'webhook-id': id, 'webhook-timestamp': timestamp, 'webhook-signature': `v1,${mac}` };
}

/** Posts signed JSON. `spoil` signs something else, as a forger would have to. */
export function signedPost(
  to: { url: string; secret: string },
  message: { id: string; event: string; value: unknown },
  signing: Signing,
  spoil = false,
): Promise<PostResult> {
  const body = JSON.stringify(message.value);
  const signed = signature(signing, to.secret, message, spoil ? `${body} ` : body);
  const began = performance.now();
  return new Promise((resolve) => {
    const done = (status: number | null, text: string) =>
      resolve({ status, ms: Math.round(performance.now() - began), body: text });
    const call = request(
      to.url,
      {
        method: 'POST',
        timeout: 10_000,
        headers: { 'content-type': 'application/json', 'content-length': Buffer.byteLength(body), ...signed },
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
