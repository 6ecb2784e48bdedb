import { createDecipheriv, createECDH, createHash, createPublicKey, hkdfSync, randomBytes, verify } from 'node:crypto';
import type { IncomingMessage, ServerResponse } from 'node:http';
import { reply } from './http.ts';
import type { World } from './world.ts';
import type { PushDevice } from './world-state.ts';

/** Longest body a push service has to take, in bytes (RFC 8030 §7.2). */
const MOST = 4096;
const KEPT = 30;

/** The keys of a device, base64url. */
export interface DeviceKeys {
  privateKey: string;
  publicKey: string;
  auth: string;
}

export function newDeviceKeys(): DeviceKeys {
  const curve = createECDH('prime256v1');
  curve.generateKeys();
  return {
    privateKey: curve.getPrivateKey('base64url'),
    publicKey: curve.getPublicKey('base64url'),
    auth: randomBytes(16).toString('base64url'),
  };
}

/**
 * What a device reads of a push: "aes128gcm" (RFC 8188) with the keys of RFC 8291 §3.4, one record. Throws where it was not made for this device, or has been
 * changed on the way.
 */
export function openPush(body: Buffer, keys: DeviceKeys): string {
  if (body.length < 21 + 65 + 17) throw new Error('too short for a push');
  const salt = body.subarray(0, 16);
  const recordSize = body.readUInt32BE(16);
  const idLength = body[20]!;
  const sender = body.subarray(21, 21 + idLength);
  const sealed = body.subarray(21 + idLength);
  if (idLength !== 65) throw new Error('the key id is not the sender’s public key');
  if (sealed.length > recordSize) throw new Error('a push is one record');
  const curve = createECDH('prime256v1');
  curve.setPrivateKey(keys.privateKey, 'base64url');
  const secret = curve.computeSecret(sender);
  const info = Buffer.concat([Buffer.from('WebPush: info\0'), Buffer.from(keys.publicKey, 'base64url'), sender]);
  const key = Buffer.from(hkdfSync('sha256', secret, Buffer.from(keys.auth, 'base64url'), info, 32));
  const contentKey = Buffer.from(hkdfSync('sha256', key, salt, 'Content-Encoding: aes128gcm\0', 16));
  const nonce = Buffer.from(hkdfSync('sha256', key, salt, 'Content-Encoding: nonce\0', 12));
  const decipher = createDecipheriv('aes-128-gcm', contentKey, nonce);
  decipher.setAuthTag(sealed.subarray(-16));
  const plain = Buffer.concat([decipher.update(sealed.subarray(0, -16)), decipher.final()]);
  // The last record ends with a 2 and zeros (RFC 8188 §2).
  let end = plain.length - 1;
  while (end >= 0 && plain[end] === 0) end--;
  if (plain[end] !== 2) throw new Error('the last record is not marked as such');
  return plain.subarray(0, end).toString('utf8');
}

/** What is wrong with who says they send this (VAPID, RFC 8292): null when it is theirs, for this service and still good. */
export function vapidProblem(authorization: string | undefined, audience: string, nowMs: number): string | null {
  const found = /^vapid t=([\w-]+)\.([\w-]+)\.([\w-]+), ?k=([\w-]+)$/.exec(authorization ?? '');
  if (!found) return 'no vapid authorization';
  const [, head, claims, signature, publicKey] = found;
  const point = Buffer.from(publicKey!, 'base64url');
  if (point.length !== 65) return 'the key is no point of P-256';
  const jwk = {
    kty: 'EC',
    crv: 'P-256',
    x: point.subarray(1, 33).toString('base64url'),
    y: point.subarray(33).toString('base64url'),
  };
  const good = verify(
    'sha256',
    Buffer.from(`${head}.${claims}`),
    { key: createPublicKey({ key: jwk, format: 'jwk' }), dsaEncoding: 'ieee-p1363' },
    Buffer.from(signature!, 'base64url'),
  );
  if (!good) return 'the signature is not by this key';
  const { aud, exp, sub } = JSON.parse(Buffer.from(claims!, 'base64url').toString('utf8')) as Record<string, unknown>;
  if (aud !== audience) return 'it is for another service';
  // Not past, and not more than a day ahead (RFC 8292 §2).
  if (typeof exp !== 'number' || exp * 1000 < nowMs || exp * 1000 > nowMs + 86_400_000) return 'it has run out';
  return typeof sub === 'string' && /^(mailto|https):/.test(sub) ? null : 'nobody can be turned to';
}

/** A push service and the device behind it, in one: takes what is pushed, opens it as the device would, and shows it on the page. */
export class PushReceiver {
  constructor(private readonly world: World) {}

  /** A device that takes pushes from now on. */
  subscribe(name: string, origin: string): { endpoint: string; keys: { p256dh: string; auth: string } } {
    const keys = newDeviceKeys();
    const id = createHash('sha256').update(keys.publicKey).digest('base64url').slice(0, 22);
    this.world.state.pushDevices.push({ id, name: name.slice(0, 60), keys, notices: [] });
    this.world.changed();
    return { endpoint: `${origin}/push/${id}`, keys: { p256dh: keys.publicKey, auth: keys.auth } };
  }

  /** The device turns notices off: from now on it is gone. */
  turnOff(id: string): void {
    this.world.state.pushDevices = this.world.state.pushDevices.filter((device) => device.id !== id);
    this.world.changed();
  }

  async take(request: IncomingMessage, response: ServerResponse, origin: string): Promise<void> {
    const id = /^\/push\/([\w-]+)$/.exec(new URL(request.url ?? '/', origin).pathname)?.[1];
    const chunks: Buffer[] = [];
    let size = 0;
    for await (const chunk of request as AsyncIterable<Buffer>) {
      size += chunk.length;
      if (size > MOST) return reply(response, 413, { detail: 'Longer than a push may be.' });
      chunks.push(chunk);
    }
    if (this.world.state.trouble.pushDown) return reply(response, 503, { detail: 'Away.' }, { 'retry-after': '1' });
    const device = this.world.state.pushDevices.find((one) => one.id === id);
    if (!device) return reply(response, 410, { detail: 'This device takes no more pushes.' });
    const wrong = vapidProblem(request.headers.authorization, origin, Date.now());
    if (wrong) return reply(response, 403, { detail: wrong });
    if (request.headers['content-encoding'] !== 'aes128gcm' || !request.headers.ttl)
      return reply(response, 400, { detail: 'A push is aes128gcm, with a TTL.' });
    try {
      this.show(device, openPush(Buffer.concat(chunks), device.keys));
    } catch (error) {
      // A push service cannot see this; the device would throw it away. Here somebody may want to know.
      return reply(response, 400, { detail: `It cannot be opened: ${(error as Error).message}` });
    }
    response.writeHead(201, { location: `${origin}/push-messages/${randomBytes(8).toString('hex')}` });
    response.end();
  }

  private show(device: PushDevice, text: string): void {
    const { title, body, url, tag } = JSON.parse(text) as Record<string, unknown>;
    const notice = {
      at: new Date().toISOString(),
      title: String(title),
      body: String(body),
      url: String(url),
      tag: String(tag),
    };
    device.notices = [...device.notices, notice].slice(-KEPT);
    this.world.changed();
  }
}
