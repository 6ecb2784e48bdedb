import { connect, isIP, type Socket } from 'node:net';
import { connect as connectSafely } from 'node:tls';
import type { AddressGuard, AddressRefused } from './address-guard.ts';
import { believing } from './http.ts';

const CONNECT_MS = 10_000;

/**
 * A connection to a server that is no web server, judged by where its name leads at the moment of connecting, in whichever notation it is written.
 *
 * @throws AddressRefused where it leads inside; the socket's own error, or one with code ETIMEDOUT, where nothing answers.
 */
export async function guardedSocket(
  guard: AddressGuard,
  { host, port, secure, authority }: { host: string; port: number; secure: boolean; authority?: string | undefined },
): Promise<Socket> {
  const to = { host, port, ...(guard.lookup ? { lookup: guard.lookup } : {}) };
  // An address by number is no name of a server (RFC 6066 §3).
  const named = isIP(host) ? {} : { servername: host };
  const socket = secure ? connectSafely({ ...to, ...named, ...believing(authority) }) : connect(to);
  await new Promise<void>((resolve, reject) => {
    const fail = (error: Error) => {
      socket.destroy();
      reject(error);
    };
    socket.once('error', fail);
    socket.setTimeout(CONNECT_MS, () => fail(Object.assign(new Error('Connection timeout'), { code: 'ETIMEDOUT' })));
    socket.once(secure ? 'secureConnect' : 'connect', () => {
      socket.off('error', fail);
      socket.setTimeout(0);
      socket.removeAllListeners('timeout');
      resolve();
    });
  });
  const refusal: AddressRefused | null = guard.refuses(socket.remoteAddress ?? '', port);
  if (refusal) {
    socket.destroy();
    throw refusal;
  }
  return socket;
}
