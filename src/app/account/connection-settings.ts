import { z } from 'zod';
import { AccessSettings } from '../../core/described/access.ts';
import { LONGEST_DESCRIPTION, readDescription } from '../../core/described/check.ts';
import { fill } from '../../core/described/fill.ts';
import { hiding } from '../../core/described/request.ts';
import { isDescribed } from '../../core/described/works.ts';
import { readEmail } from '../../core/message/email-address.ts';
import { SmppSettings } from '../../core/message/smpp/settings.ts';
import { CONNECTION_KINDS, type ConnectionKind, type ConnectionSettings } from '../../db/entities/connection.ts';
import { Refusal } from '../refusal.ts';

export const ConnectionInput = z.object({
  kind: z.enum(CONNECTION_KINDS),
  name: z.string().trim().min(1, 'Give the connection a name').max(100),
  /** Of a service the business describes itself, what its description says. */
  address: z.string().trim().max(300).default(''),
  sender: z.string().trim().max(100).default(''),
  /** Further senders of texts, with commas between them. */
  senders: z
    .string()
    .max(500)
    .default('')
    .transform((text) =>
      text
        .split(/[,;\n]/)
        .map((one) => one.trim())
        .filter(Boolean),
    ),
  fromName: z.string().trim().max(100).default(''),
  fromAddress: z.string().trim().max(254).default(''),
  user: z.string().trim().max(200).default(''),
  /** How access is allowed on the service's own page, at a mail server or mailbox; null for a user and password. */
  access: AccessSettings.nullable().default(null),
  /** Of a text carrier that is reached by SMPP; null for one that is called over the web. */
  smpp: SmppSettings.nullable().default(null),
  bounces: z.boolean().default(false),
  replies: z.boolean().default(false),
  /** Empty keeps the one there is. */
  secret: z.string().max(12_000).default(''),
  /** Of a server for files that is reached by SFTP: "SHA256:…". */
  hostKey: z.string().trim().max(100).default(''),
  /** How the service is called, where the business says so itself: as in core/described/description.ts. */
  description: z.unknown().optional(),
  /** What the description asks for, by name; of what is secret, empty keeps what there is. */
  values: z.record(z.string().max(40), z.string().max(8000)).default({}),
  /** Kept although it could not be tried just now. */
  untried: z.boolean().default(false),
});
export type ConnectionInput = z.infer<typeof ConnectionInput>;

/** A number (E.164), or the letters a carrier shows instead: at most 11 (3GPP TS 23.040 §9.1.2.5, from memory). */
const SENDER = /^(\+\d{7,15}|[A-Za-z0-9 ]{1,11})$/;

/** What a description says and what was filled in for it. `before` holds what was secret and filled in earlier. */
function describedSettings(
  input: ConnectionInput,
  before: Record<string, string>,
): { settings: ConnectionSettings; secret: string | null } {
  if (!isDescribed(input.kind)) throw new Refusal(422, 'description', 'Services of this kind are not described yet.');
  if (JSON.stringify(input.description).length > LONGEST_DESCRIPTION)
    throw new Refusal(
      422,
      'description',
      'The description is longer than anybody needs: 200,000 characters are taken.',
    );
  const read = readDescription(input.description, input.kind);
  if (!read.ok) throw new Refusal(422, 'description', read.problems.slice(0, 5).join(' '));
  const { description } = read;
  const secrets: Record<string, string> = {};
  const values: Record<string, string> = {};
  for (const { key, label, secret, needed } of description.asks) {
    const typed = (Object.hasOwn(input.values, key) ? input.values[key]! : '').trim();
    const value = secret && typed === '' && Object.hasOwn(before, key) ? before[key]! : typed;
    if (needed && value === '') throw new Refusal(422, 'value', `Fill in “${label || key}”.`);
    if (value !== '') (secret ? secrets : values)[key] = value;
  }
  const address = fill(description.address, { given: {}, account: { ...values, ...secrets } });
  const settings: ConnectionSettings = {
    address: address.ok ? hiding(Object.values(secrets))(address.text) : '',
    description,
    values,
  };
  return { settings, secret: Object.keys(secrets).length > 0 ? JSON.stringify(secrets) : null };
}

/** Settings as they are kept, with what is secret in them apart; null for the key that is there already. */
export function readInput(
  input: ConnectionInput,
  before: string | null,
  /** What was secret and filled in, by name. */
  secrets: Record<string, string>,
): { settings: ConnectionSettings; secret: string | null } {
  if (input.description === undefined || input.description === null) {
    if (input.kind === 'service')
      throw new Refusal(
        422,
        'description',
        'Say how the service is called: take a description from a file, or make one.',
      );
    if (input.address === '') throw new Refusal(422, 'address', 'The address is missing.');
    const settings = settingsOf(input);
    const byAddress = input.kind === 'calendar_account' && input.user === '';
    if (!byAddress) return { settings, secret: input.secret || before };
    return { settings, secret: input.address.endsWith('/…') && before !== null ? before : input.address };
  }
  const { settings, secret } = describedSettings(input, secrets);
  // Whom messages come from is checked as for any other.
  const own =
    input.kind === 'text_carrier' || input.kind === 'chat_network'
      ? settingsOf({ ...input, smpp: null, address: settings.address })
      : {};
  return { settings: { ...own, ...settings }, secret };
}

const SMPP = [
  ['smpp:', 'smpps:'],
  'Write the address as smpps://name:port, or smpp://name:port without encryption.',
] as const;
/** How addresses of each kind begin, and what is said of others. */
const WEB = [['http:', 'https:'], 'Write the address as a web address, beginning with https://.'] as const;
const SCHEMES: Partial<Record<ConnectionKind, readonly [readonly string[], string]>> = {
  mail_server: [['smtp:', 'smtps:'], 'Write the address as smtp://name:port or smtps://name:port.'],
  calendar_account: [
    ['http:', 'https:', 'webcal:'],
    'Write the address as a web address, beginning with https:// or webcal://.',
  ],
  file_place: [
    ['http:', 'https:', 'sftp:'],
    'Write the address as a web address, beginning with https://, or as sftp://name/folder/.',
  ],
  mail_account: [['imaps:', 'imap:'], 'Write the address as imaps://name:port or imap://name:port.'],
  database: [
    ['postgres:', 'postgresql:'],
    'Write the address as postgres://name:port/database, without user and password.',
  ],
};

const APART = 'Write the address without user and password: they have fields of their own.';

/** How access is allowed, where it is; both its addresses lead somewhere. */
function accessSettings({ access, user }: ConnectionInput): { access?: AccessSettings } {
  if (!access) return {};
  if (user === '') throw new Refusal(422, 'user', 'Say the user name access is allowed for, mostly the email address.');
  for (const address of [access.authorizeAddress, access.tokenAddress])
    if (!/^https?:\/\//i.test(address) || !URL.canParse(address))
      throw new Refusal(
        422,
        'address',
        'Write both addresses of the service that allows access as web addresses, beginning with https://.',
      );
  return { access };
}

function settingsOf(input: ConnectionInput): ConnectionSettings {
  const smpp = input.kind === 'text_carrier' ? input.smpp : null;
  const [schemes, written] = smpp ? SMPP : (SCHEMES[input.kind] ?? WEB);
  let url: URL | null = null;
  try {
    url = new URL(input.address);
  } catch {
    /* told below */
  }
  if (!url || !schemes.includes(url.protocol)) throw new Refusal(422, 'address', written);
  if (input.kind === 'text_carrier') {
    if (![input.sender, ...input.senders].every((one) => SENDER.test(one)))
      throw new Refusal(
        422,
        'sender',
        'The sender of texts is a number like +447700900000, or a name of at most 11 letters and digits.',
      );
    const sender = { address: input.address, sender: input.sender, senders: input.senders };
    if (!smpp) return sender;
    if (url.username !== '' || url.password !== '') throw new Refusal(422, 'address', APART);
    if (input.user === '')
      throw new Refusal(422, 'user', 'Say the user name of the account; carriers call it system_id.');
    return { ...sender, user: input.user, smpp };
  }
  if (input.kind === 'chat_network') {
    if (!/^\+\d{7,15}$/.test(input.sender))
      throw new Refusal(422, 'sender', 'Your number in chat is written like +447700900000.');
    return { address: input.address, sender: input.sender };
  }
  if (input.kind === 'mail_server') {
    if (!readEmail(input.fromAddress).ok)
      throw new Refusal(422, 'from', 'The address emails come from is not an email address.');
    return {
      address: input.address,
      fromName: input.fromName,
      fromAddress: input.fromAddress,
      ...(input.user ? { user: input.user } : {}),
      ...accessSettings(input),
      bounces: input.bounces,
      replies: input.replies,
    };
  }
  if (input.kind === 'mail_account') {
    if (url.username !== '' || url.password !== '') throw new Refusal(422, 'address', APART);
    if (input.user === '') throw new Refusal(422, 'user', 'Say the user name of the mailbox, often its email address.');
    return { address: input.address, user: input.user, ...accessSettings(input) };
  }
  if (input.kind === 'database') {
    // What stands in an address is shown; a password never is.
    if (url.username !== '' || url.password !== '') throw new Refusal(422, 'address', SCHEMES.database![1]);
    if (input.user === '') throw new Refusal(422, 'user', 'Say the name of the database user.');
    return { address: input.address, user: input.user };
  }
  if (input.kind === 'calendar_account') {
    if (url.username !== '' || url.password !== '') throw new Refusal(422, 'address', APART);
    // Whoever knows the address of a calendar may read it: it is kept as the secret, and only where it leads is shown.
    return input.user
      ? { address: input.address, user: input.user }
      : { address: `${url.protocol === 'webcal:' ? 'https:' : url.protocol}//${url.host}/…` };
  }
  if (input.kind === 'file_place') {
    if (url.username !== '' || url.password !== '') throw new Refusal(422, 'address', APART);
    if (url.protocol === 'sftp:') {
      if (input.user === '') throw new Refusal(422, 'user', 'Say the user name.');
      if (input.hostKey !== '' && !/^SHA256:[A-Za-z0-9+/]{43}$/.test(input.hostKey))
        throw new Refusal(422, 'hostKey', 'Write the fingerprint as ssh-keygen shows it: SHA256: and 43 letters.');
      return { address: input.address, user: input.user, ...(input.hostKey ? { hostKey: input.hostKey } : {}) };
    }
    return { address: input.address, ...(input.user ? { user: input.user } : {}) };
  }
  return { address: input.address };
}
