import { lookup as dnsLookup } from 'node:dns';
import { isIP, type LookupFunction } from 'node:net';
import ipaddr from 'ipaddr.js';

/** Thrown when an address must not be called; `code` is told in the log. */
export class AddressRefused extends Error {
  readonly code = 'address-refused';
}

/**
 * Whether an IP address is out on the public internet. Sources: the special-purpose registries of RFC 6890 as ipaddr.js has
 * them; an IPv4 address inside an IPv6 one is judged as IPv4.
 */
export function isPublicAddress(address: string): boolean {
  if (!ipaddr.isValid(address)) return false;
  return ipaddr.process(address).range() === 'unicast';
}

/** Name look-up that gives public addresses only: checked after DNS, so a name cannot point inside. */
const guardedLookup: LookupFunction = (hostname, options, callback) => {
  dnsLookup(hostname, { ...options, all: true }, (error, addresses) => {
    if (error) return callback(error, '', 0);
    const inside = addresses.find(({ address }) => !isPublicAddress(address));
    if (inside)
      return callback(
        new AddressRefused(`${hostname} leads to ${inside.address}, which is not a public address`),
        '',
        0,
      );
    if (options.all) return (callback as unknown as (e: null, a: typeof addresses) => void)(null, addresses);
    callback(null, addresses[0]!.address, addresses[0]!.family);
  });
};

export interface AddressGuard {
  /** Refuses at once what is plainly inside; undefined lets everything through. */
  lookup: LookupFunction | undefined;
  check(url: URL): void;
  /** What is wrong with an address a connection has been made to. */
  refuses(address: string, port: number): AddressRefused | null;
}

/**
 * `allowInside` lets loopback and private addresses through: for owners who run their services beside Pine Bell. Those of `ours`, addresses of the
 * practice desk as they stand in its connections, are let through by host and port alone.
 */
export function addressGuard(allowInside: boolean, ours: readonly string[] = []): AddressGuard {
  const hosts = new Set(ours.map((address) => new URL(address).host));
  return {
    lookup: allowInside ? undefined : guardedLookup,
    check(url) {
      if (allowInside || hosts.has(url.host)) return;
      const host = url.hostname.replace(/^\[|\]$/g, '');
      if (isIP(host) && !isPublicAddress(host)) throw new AddressRefused(`${host} is not a public address`);
    },
    refuses: (address, port) =>
      allowInside || isPublicAddress(address) || hosts.has(`${address}:${port}`)
        ? null
        : new AddressRefused('It leads to an address that is not public'),
  };
}
