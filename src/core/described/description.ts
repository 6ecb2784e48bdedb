import { z } from 'zod';

/**
 * A connection description: how a service is signed in to, asked and listened to, as data. Each business makes its own in a form; it is shared as a file
 * and says nothing of whoever fills it in. docs/connect/described.md has the whole of it.
 */
export const DESCRIPTION_FORMAT = 'pine-bell-connection';
export const DESCRIPTION_VERSION = 1;

/** A name by which something is called within a description. */
const Key = z
  .string()
  .regex(/^[a-z][a-z0-9_]{0,39}$/, 'Small letters, digits and underscores, beginning with a letter');
/** Text with fields in it, as messages have them: `{{ given.to }}`, `{{ account.key }}`. */
const Written = z.string().max(5000);
/** A JSONPath (RFC 9535) into an answer; empty for nothing. */
const Path = z.string().max(300);
const Label = z.string().trim().max(100);

/** Something each business fills in for itself: an account number, a key. */
const Asked = z.object({
  key: Key,
  label: Label,
  /** Sealed when it is stored, and never shown again. */
  secret: z.boolean().default(false),
  help: z.string().max(300).default(''),
  needed: z.boolean().default(true),
});
export type Asked = z.infer<typeof Asked>;

/** One value that is sent, under its name: "person.email" in JSON and XML ("@id" for an attribute), a plain name elsewhere. */
const SentField = z.object({
  name: z.string().trim().min(1, 'Each value that is sent needs a name').max(200),
  value: Written,
  /** `whole` sends one value as it is given, with its lists and fields. */
  as: z.enum(['text', 'number', 'yes-no', 'whole']).default('text'),
  ifEmpty: z.enum(['send', 'leave-out']).default('send'),
});
export type SentField = z.infer<typeof SentField>;

const Encoding = z.enum(['hex', 'base64']);
const Digest = z.enum(['sha1', 'sha256', 'sha512']);

export const SignIn = z.discriminatedUnion('way', [
  z.object({ way: z.literal('none') }),
  z.object({ way: z.literal('header'), name: z.string().trim().min(1).max(100), value: Written }),
  z.object({ way: z.literal('query'), name: z.string().trim().min(1).max(100), value: Written }),
  /** RFC 7617. */
  z.object({ way: z.literal('basic'), user: Written, password: Written }),
  /** RFC 6750. */
  z.object({ way: z.literal('bearer'), token: Written }),
  /** An HMAC (RFC 2104) over chosen parts: `given.method`, `given.path` with its query, `given.body`, `given.time`, `given.nonce`. */
  z.object({
    way: z.literal('hmac'),
    digest: Digest.default('sha256'),
    key: Written,
    over: Written,
    encoding: Encoding.default('hex'),
    header: z.string().trim().min(1).max(100),
    prefix: z.string().max(100).default(''),
    /** Where the time goes that was signed; empty for nowhere. */
    timeHeader: z.string().trim().max(100).default(''),
    nonceHeader: z.string().trim().max(100).default(''),
    time: z.enum(['seconds', 'milliseconds', 'iso']).default('seconds'),
  }),
  /** OAuth 2 client credentials (RFC 6749 §4.4): a token for as long as it lasts, and another before it runs out. */
  z.object({
    way: z.literal('oauth2-client'),
    tokenAddress: Written,
    clientId: Written,
    clientSecret: Written,
    scope: z.string().max(500).default(''),
    /** Whether the client shows itself in the header or in the body (RFC 6749 §2.3.1). */
    shows: z.enum(['basic', 'body']).default('basic'),
  }),
  /**
   * OAuth 2 authorization code (RFC 6749 §4.1) with PKCE (RFC 7636): a person allows it once on the service's own page; the token is renewed (§6) for as
   * long as the service lets it.
   */
  z.object({
    way: z.literal('oauth2-code'),
    authorizeAddress: Written,
    tokenAddress: Written,
    clientId: Written,
    /** Empty for a client without one. */
    clientSecret: Written.default(''),
    scope: z.string().max(500).default(''),
    shows: z.enum(['basic', 'body']).default('basic'),
    /** What the service's page wants to know besides, as in an address: `access=offline`. */
    more: z.string().max(500).default(''),
  }),
  /** Mutual TLS (RFC 8705 §2): the business's own certificate and its key, as PEM. */
  z.object({ way: z.literal('certificate'), certificate: Written, key: Written }),
]);
export type SignIn = z.infer<typeof SignIn>;

/** What an answer means. The first rule that fits counts; without one HTTP's own meaning does (RFC 9110 §15). */
const OutcomeRule = z.object({
  /** "200", "200-299", "409, 422"; empty for any. */
  status: z
    .string()
    .max(200)
    .refine(
      (text) => /^(\d{3}(-\d{3})?(,\d{3}(-\d{3})?)*)?$/.test(text.replace(/\s/g, '')),
      'Write statuses like 200-299 or 409, 422',
    )
    .default(''),
  path: Path.default(''),
  /** Values at the path, one of which it must be; none: anything but nothing. */
  is: z.array(z.string().max(200)).max(50).default([]),
  means: z.enum(['done', 'again', 'final', 'unsure']),
  /** A word of ours for it, where there is one: `window-shut`. */
  code: z.string().max(40).default(''),
});
export type OutcomeRule = z.infer<typeof OutcomeRule>;

/**
 * A value read from an answer. `text` as it stands; `date` becomes ISO 8601 in UTC; `money` a plain number with a dot; `list` a list of things, each with
 * the values `of` names, by paths that begin at the thing.
 */
const ReadValue = z.object({
  path: Path,
  as: z.enum(['text', 'number', 'date', 'money', 'whole', 'list']).default('text'),
  of: z.record(Key, Path).optional(),
});
export type ReadValue = z.infer<typeof ReadValue>;

const Paging = z.discriminatedUnion('way', [
  z.object({ way: z.literal('none') }),
  /** The answer says what to ask with next: `given.cursor`. */
  z.object({ way: z.literal('cursor'), path: Path }),
  /** The answer's Link header with rel="next" (RFC 8288). */
  z.object({ way: z.literal('link') }),
  /** `given.page`, counted from `first`, until a page brings nothing. */
  z.object({ way: z.literal('page'), first: z.number().int().min(0).max(1).default(1) }),
  /** `given.since`: the highest of these values so far, asked with at the next look. */
  z.object({ way: z.literal('since'), path: Path }),
]);
export type Paging = z.infer<typeof Paging>;

export const METHODS = ['GET', 'POST', 'PUT', 'PATCH', 'DELETE'] as const;

export const Call = z.object({
  method: z.enum(METHODS).default('POST'),
  /** Behind the description's address; fields in it are percent-encoded. */
  path: z.string().max(1000).default(''),
  query: z.array(SentField).max(30).default([]),
  headers: z.array(SentField).max(30).default([]),
  body: z
    .object({
      as: z.enum(['none', 'json', 'form', 'xml', 'multipart']).default('none'),
      /** The outermost element of XML. */
      root: z.string().max(100).default(''),
      fields: z.array(SentField).max(60).default([]),
    })
    .prefault({}),
  /**
   * What sending it a second time would do. `by-key`: nothing, the service knows the key again; `harmless`: nothing anyway; `ask`: it would be done
   * twice, but the call `look` tells whether it was; `twice`: it would be done twice, and nobody can tell: a person decides.
   */
  again: z.enum(['by-key', 'harmless', 'ask', 'twice']).default('twice'),
  /** The header the key goes in, where it goes in one. */
  keyHeader: z.string().trim().max(100).default(''),
  outcomes: z.array(OutcomeRule).max(30).default([]),
  /** Where the reason of a refusal stands; the first that holds something. */
  reason: z.array(Path).max(10).default([]),
  /** Where the list stands of which each is an item; empty for one answer. */
  items: Path.default(''),
  /** By name; of each item where there is a list. */
  reads: z.record(Key, ReadValue).default({}),
  /** By name; once of the whole answer, where `reads` are of each item of a list. */
  besides: z.record(Key, ReadValue).default({}),
  paging: Paging.default({ way: 'none' }),
});
export type Call = z.infer<typeof Call>;

/** A thing a step fills in, or gives to the steps after it. */
const Named = z.object({ key: Key, label: Label });

/** Something kept on record there: looked for first, then made or brought up to date, so that the second time changes the first. */
const RecordKind = z.object({
  key: Key,
  label: Label,
  takes: z
    .array(Named.extend({ needed: z.boolean().default(false) }))
    .min(1)
    .max(40),
  /** Names of calls. Each is given what a step fills in; `find` and `create` read `id`, `update` is given it. */
  find: Key.nullable().default(null),
  create: Key,
  update: Key.nullable().default(null),
});
export type RecordKind = z.infer<typeof RecordKind>;

const LookUp = z.object({
  key: Key,
  label: Label,
  takes: z.array(Named).min(1).max(10),
  call: Key,
  gives: z.array(Named).min(1).max(40),
});
export type LookUp = z.infer<typeof LookUp>;

/** New things that are fetched on a schedule: a call with a list whose items read an `id`. */
const Fetched = z.object({ key: Key, label: Label, call: Key });
export type Fetched = z.infer<typeof Fetched>;

const Signed = z.discriminatedUnion('way', [
  /** Anybody who knows the address: it is long and secret itself. */
  z.object({ way: z.literal('address') }),
  z.object({ way: z.literal('standard-webhooks') }),
  z.object({
    way: z.literal('hmac'),
    digest: Digest.default('sha256'),
    encoding: Encoding.default('hex'),
    header: z.string().trim().min(1).max(100),
    prefix: z.string().max(50).default(''),
    /** The key: `given.secret`, which Pine Bell makes for each connection, or something the business fills in. */
    key: Written.default('{{ given.secret }}'),
    /** What is signed: `given.body`, `given.time`. */
    over: Written.default('{{ given.body }}'),
    /** Where the time stands that is signed too, in seconds since 1970; not older than five minutes. Empty for none. */
    timeHeader: z.string().trim().max(100).default(''),
  }),
  z.object({ way: z.literal('basic'), user: z.string().max(100) }),
]);

/** What one kind of event means to us. */
export const HEARD_MEANINGS = [
  'delivered',
  'undelivered',
  'read',
  'received',
  'form',
  'template',
  'booked',
  'confirmed',
  'moved',
  'cancelled',
  'missed',
  'customer',
  'ordered',
  'order_changed',
  'opted_in',
  'purchased',
  'entry',
  'event',
  'nothing',
] as const;
const HeardKind = z.object({
  /** Values at `kind`, one of which it is; none: whatever fits no other. */
  is: z.array(z.string().max(100)).max(30).default([]),
  means: z.enum(HEARD_MEANINGS),
  reads: z.record(Key, ReadValue).default({}),
});

const Hears = z.object({
  signed: Signed.default({ way: 'standard-webhooks' }),
  /** Some ask first whether the address is ours: what they send under this name is sent back to them. Empty for none. */
  handshake: z.string().max(100).default(''),
  /** Where the list of events stands; empty when each comes by itself. */
  events: Path.default(''),
  kind: Path.default(''),
  /** By which a repeat is known. */
  id: Path.default(''),
  kinds: z.array(HeardKind).min(1).max(30),
  /** Events of no kind that is named here: taken and let go, or refused, so that whoever sends them is told. */
  others: z.enum(['let-go', 'refuse']).default('let-go'),
  /** What they want to hear; 200 with nothing where nothing is said. */
  reply: z
    .object({ status: z.number().int().min(200).max(299).default(200), body: z.string().max(500).default('') })
    .prefault({}),
});
export type Hears = z.infer<typeof Hears>;

export const Description = z.object({
  format: z.literal(DESCRIPTION_FORMAT, 'This file is not a connection description'),
  version: z.literal(DESCRIPTION_VERSION, 'This description was written by a later version of Pine Bell'),
  name: Label.min(1, 'Give the description a name'),
  about: z.string().max(1000).default(''),
  /** What a business fills in. */
  asks: z.array(Asked).max(20).default([]),
  /** Where every call begins: `{{ account.address }}`, or an address. */
  address: Written.min(1, 'Say at which address the service is'),
  signIn: SignIn.default({ way: 'none' }),
  limits: z
    .object({
      /** Calls in a second; 0 for as many as there are. */
      perSecond: z.number().min(0).max(1000).default(0),
      /** Calls under way at a time; 0 for the usual number. */
      atOnce: z.number().int().min(0).max(64).default(0),
    })
    .prefault({}),
  calls: z.record(Key, Call).default({}),
  records: z.array(RecordKind).max(10).default([]),
  lookUps: z.array(LookUp).max(10).default([]),
  fetches: z.array(Fetched).max(10).default([]),
  hears: Hears.nullable().default(null),
});
export type Description = z.infer<typeof Description>;
/** As a file has it, with what goes without saying left out. */
export type DescriptionFile = z.input<typeof Description>;
