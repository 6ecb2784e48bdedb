import { createECDH, createHash } from 'node:crypto';
import webPush from 'web-push';
import { retryAfterMs } from '../core/delivery/retry-after.ts';
import type { Notice } from '../core/notices/notices.ts';
import type { HttpCaller } from './http.ts';

/** Where a device takes pushes, as its browser gave it (W3C Push API): the address at its push service, and its keys in base64url. */
export interface PushAddress {
  endpoint: string;
  p256dh: string;
  auth: string;
}

export type PushAnswer =
  | { kind: 'taken' }
  /** The device has withdrawn it, or is no more: nothing reaches it again. */
  | { kind: 'gone' }
  | { kind: 'later'; problem: string; afterMs: number | null };

/** How long a push service keeps a notice for a device that is off, in seconds: a morning's leads are not told in the evening. */
const KEEP_SECONDS = 4 * 60 * 60;

/** Our key pair towards push services (VAPID, RFC 8292), from 32 secret bytes: the same in every process and after every start. In base64url. */
export function vapidKeys(secret: Buffer): { publicKey: string; privateKey: string } {
  const curve = createECDH('prime256v1');
  // Any 32 bytes but one in four billion are a private key of P-256; web-push wants it without leading zeros lost.
  curve.setPrivateKey(secret);
  return {
    publicKey: curve.getPublicKey('base64url'),
    privateKey: secret.toString('base64url'),
  };
}

/** Hands notices over to push services (RFC 8030), encrypted for the device alone (RFC 8291). */
export class PushSender {
  readonly publicKey: string;
  private readonly keys: { publicKey: string; privateKey: string };

  constructor(private readonly parts: { http: HttpCaller; secret: Buffer; publicUrl: string; now: () => number }) {
    this.keys = vapidKeys(parts.secret);
    this.publicKey = this.keys.publicKey;
  }

  async send({ endpoint, p256dh, auth }: PushAddress, notice: Notice): Promise<PushAnswer> {
    const { http, publicUrl, now } = this.parts;
    const made = webPush.generateRequestDetails({ endpoint, keys: { p256dh, auth } }, JSON.stringify(notice), {
      // Whom a push service turns to when we do something wrong.
      vapidDetails: {
        subject: publicUrl.startsWith('https:') ? publicUrl : 'mailto:owner@pinebell.invalid',
        ...this.keys,
      },
      TTL: KEEP_SECONDS,
      urgency: 'high',
      // At most 32 characters of the URL-safe alphabet (RFC 8030 §5.4), whatever the tag is made of.
      topic: createHash('sha256').update(notice.tag).digest('base64url').slice(0, 32),
    });
    const headers = Object.fromEntries(
      Object.entries(made.headers).map(([name, value]) => [name.toLowerCase(), String(value)]),
    );
    const outcome = await http.call('POST', endpoint, headers, made.body ?? undefined);
    if (!outcome.ok) return { kind: 'later', problem: outcome.detail, afterMs: null };
    const { status, retryAfter } = outcome.reply;
    if (status >= 200 && status < 300) return { kind: 'taken' };
    // RFC 8030 §7.3: 404 for one that has run out, 410 for one that was given up.
    if (status === 404 || status === 410) return { kind: 'gone' };
    return {
      kind: 'later',
      problem: `The push service answered ${status}.`,
      afterMs: retryAfterMs(retryAfter, now()),
    };
  }
}
