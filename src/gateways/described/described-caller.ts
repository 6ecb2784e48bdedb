import { randomBytes } from 'node:crypto';
import LinkHeader from 'http-link-header';
import type { Answer } from '../../core/delivery/answer.ts';
import type { Call, Description } from '../../core/described/description.ts';
import { type Filling, fill } from '../../core/described/fill.ts';
import { sortNoAnswer, sortReply } from '../../core/described/outcome.ts';
import { valuesAt } from '../../core/described/paths.ts';
import { type ReadValues, readValues, textAt } from '../../core/described/read.ts';
import { type Data, type Reply, readReply } from '../../core/described/reply.ts';
import { hiding, type MadeRequest, makeRequest, shownRequest } from '../../core/described/request.ts';
import type { HttpCaller, HttpOutcome } from '../http.ts';
import { Breaker } from './breaker.ts';
import { OwnTurns, Pace, type Turns } from './pace.ts';
import type { TokenAsk } from './token-service.ts';
import { type Grants, NO_GRANTS, type Token, Tokens } from './tokens.ts';

/** A connection to a service that is described. */
export interface DescribedAccount {
  connectionId: string;
  /** The connection somebody has allowed access for, where that is another name: a try is made as by one that is not known yet. */
  grantOf?: string;
  /** How it is spoken of at the beginning of a sentence: "The carrier". */
  who: string;
  description: Description;
  /** What the business filled in, secrets too, by name. */
  values: Record<string, string>;
  /** PEM; an authority of the business's own that is believed besides. */
  authority?: string | undefined;
}

/** Whatever makes calls: the network, or a recording of it. */
export type Calls = Pick<HttpCaller, 'call'>;

/** What came of a call. */
export interface Called {
  answer: Answer;
  data: Data | null;
  /** What was read from the answer; of each item where it is a list. Empty unless it was accepted. */
  values: ReadValues;
  items: ReadValues[];
  /** Read from the whole answer, where there is a list. */
  besides: ReadValues;
  /** What the next page is asked with; null at the end. */
  next: Record<string, string> | null;
}

/** The same with what went out and came back, for people: secrets hidden. */
export interface Shown extends Called {
  sent: MadeRequest | null;
  reply: { status: number; headers: Record<string, string>; body: string } | null;
  ms: number;
}

const nonce = () => randomBytes(16).toString('hex');
/** Longest answer read, bytes: a page of entries. */
const MOST = 4 * 1024 * 1024;
const NOTHING = { data: null, values: {}, items: [], besides: {}, next: null };
/** How much of an answer people are shown, in UTF-16 code units. */
const SHOWN = 20_000;

/** What is told of each call: for the health of the connection. */
export interface CallSeen {
  connectionId: string;
  /** Whether it answered at all, and whether what it said was no trouble of its own. */
  answered: boolean;
  well: boolean;
  ms: number;
  problem: string;
  at: number;
}

/** Calls services by their descriptions: signed in, within their limits, past one that does not answer, with every answer understood or said to be none. */
export class DescribedCaller {
  private readonly breaker: Breaker;
  private readonly pace: Pace;
  private readonly tokens: Tokens;
  private readonly grants: Grants;

  constructor(
    private readonly parts: {
      http: Calls;
      now: () => number;
      grants?: Grants;
      seen?: (call: CallSeen) => void;
      /** Shared with other processes; those of this one alone where there are none. */
      turns?: Turns;
    },
  ) {
    this.grants = parts.grants ?? NO_GRANTS;
    this.breaker = new Breaker(parts.now);
    this.pace = new Pace(parts.turns ?? new OwnTurns(parts.now));
    this.tokens = new Tokens(parts.http, parts.now);
  }

  /** Makes one call. Nothing it does throws: whatever goes wrong is an answer with a reason. */
  async call(account: DescribedAccount, name: string, given: Record<string, unknown>): Promise<Called> {
    const { sent, reply, ms, ...called } = await this.show(account, name, given, false);
    return called;
  }

  /** What would be sent, without sending it: secrets hidden. */
  dry(
    account: DescribedAccount,
    name: string,
    given: Record<string, unknown>,
  ): { ok: true; sent: MadeRequest } | { ok: false; problem: string } {
    const call = callOf(account, name);
    if (!call) return { ok: false, problem: noCall(account, name) };
    const moment = { time: this.parts.now(), nonce, token: 'TOKEN' };
    const made = makeRequest(account.description, call, { given, account: account.values }, moment);
    return made.ok ? { ok: true, sent: shownRequest(made.request, secretsOf(account)) } : made;
  }

  /** Makes one call and keeps what went out and came back, where that is wanted. */
  async show(account: DescribedAccount, name: string, given: Record<string, unknown>, keep = true): Promise<Shown> {
    const nothing = { ...NOTHING, sent: null, reply: null, ms: 0 };
    const call = callOf(account, name);
    if (!call) return { ...nothing, answer: { kind: 'refused', code: 'no-call', detail: noCall(account, name) } };
    const wait = await this.pace.turn(account.connectionId, account.description.limits);
    if (wait !== null)
      return {
        ...nothing,
        answer: sortNoAnswer(
          call,
          'busy',
          `As many calls as ${account.who.charAt(0).toLowerCase()}${account.who.slice(1)} allows are under way.`,
          wait,
        ),
      };
    try {
      const shut = this.breaker.shutFor(account.connectionId);
      if (shut === null)
        return await this.made(account, call, given, keep).catch((error) => this.fault(account, error));
      const detail = `${account.who} has not answered several times, and is left alone for a moment.`;
      return { ...nothing, answer: sortNoAnswer(call, 'breaker', detail, shut) };
    } finally {
      this.pace.done(account.connectionId);
    }
  }

  private async made(
    account: DescribedAccount,
    call: Call,
    given: Record<string, unknown>,
    keep: boolean,
  ): Promise<Shown> {
    const { now } = this.parts;
    // The first page is asked for by its number, like all the others.
    const first = call.paging.way === 'page' ? { page: String(call.paging.first) } : {};
    const filling: Filling = { given: { ...first, ...given }, account: account.values };
    const began = now();
    const ask = tokenAskOf(account, filling);
    let request: MadeRequest | null = null;
    let token: string | undefined;
    const hidden = () => [...secretsOf(account), ...(token ? [token] : [])];
    const end = (answer: Answer, more: Partial<Shown> = {}): Shown => ({
      ...NOTHING,
      ...more,
      // A refusal is kept and shown to many: a service that repeats the key in it gives nothing away.
      answer: answer.kind === 'accepted' ? answer : { ...answer, detail: hiding(hidden())(answer.detail) },
      sent: keep && request ? shownRequest(request, hidden()) : null,
      reply: more.reply ?? null,
      ms: now() - began,
    });
    for (let second = false; ; second = true) {
      if (ask) {
        const got = await this.tokenFor(account, ask);
        if (!got.ok) {
          this.breaker.tell(account.connectionId, true);
          this.saw(account, { answered: true, well: false, problem: got.detail, began });
          return end(sortNoAnswer(call, got.refused ? 'key' : 'token', `${account.who}: ${got.detail}`));
        }
        token = got.token;
      }
      const made = makeRequest(account.description, call, filling, { time: began, nonce, token });
      if (!made.ok) {
        this.breaker.tell(account.connectionId, true);
        return end(sortNoAnswer(call, 'request', made.problem));
      }
      request = made.request;
      const outcome = await this.send(account, filling, request);
      if (!outcome.ok) {
        // One that is not called at all is no trouble of the service.
        const ours = outcome.code === 'address-refused' || outcome.code === 'bad-address';
        this.breaker.tell(account.connectionId, ours);
        this.saw(account, { answered: false, well: false, problem: outcome.detail, began });
        return end(sortNoAnswer(call, outcome.code, outcome.detail));
      }
      const { reply } = outcome;
      this.breaker.tell(account.connectionId, true);
      // Not accepted any more before its time: nothing was done, and with another it may be.
      if (ask && token !== undefined && reply.status === 401 && !second) {
        await this.forget(account, ask, token);
        continue;
      }
      const data = readReply(reply);
      const answer = sortReply(call, reply, data, account.who, now());
      this.saw(account, {
        answered: true,
        well: reply.status < 500 && reply.status !== 401 && reply.status !== 403,
        problem: answer.kind === 'accepted' ? '' : answer.detail,
        began,
      });
      return end(answer, {
        data,
        ...(answer.kind === 'accepted' ? readOf(call, data, reply, given) : {}),
        ...(keep ? { reply: shownReply(reply, hidden()) } : {}),
      });
    }
  }

  private tokenFor(account: DescribedAccount, ask: TokenAsk): Promise<Token> {
    return account.description.signIn.way === 'oauth2-code'
      ? this.grants.token(account.grantOf ?? account.connectionId, ask)
      : this.tokens.of(ask);
  }

  private async forget(account: DescribedAccount, ask: TokenAsk, token: string): Promise<void> {
    if (account.description.signIn.way === 'oauth2-code')
      await this.grants.forget(account.grantOf ?? account.connectionId, token);
    else this.tokens.forget(ask, token);
  }

  /** A fault of ours is none of the service's: it is not left alone for it. */
  private fault(account: DescribedAccount, error: unknown): never {
    this.breaker.tell(account.connectionId, true);
    throw error;
  }

  private async send(account: DescribedAccount, filling: Filling, request: MadeRequest): Promise<HttpOutcome> {
    const { signIn } = account.description;
    const trust = {
      authority: account.authority,
      ...(signIn.way === 'certificate'
        ? { cert: textOf(signIn.certificate, filling), key: textOf(signIn.key, filling) }
        : {}),
    };
    const { method, address, parts } = request;
    let { body, headers } = request;
    if (parts) {
      const form = new FormData();
      for (const [name, value] of parts) form.append(name, value);
      const packed = new Response(form);
      headers = { ...headers, 'content-type': packed.headers.get('content-type') ?? 'multipart/form-data' };
      body = await packed.text();
    }
    return this.parts.http.call(method, address, headers, body ?? undefined, MOST, trust);
  }

  private saw(
    account: DescribedAccount,
    { began, ...of }: { answered: boolean; well: boolean; problem: string; began: number },
  ): void {
    const at = this.parts.now();
    this.parts.seen?.({ connectionId: account.connectionId, ...of, ms: at - began, at });
  }
}

const callOf = ({ description }: DescribedAccount, name: string): Call | null =>
  Object.hasOwn(description.calls, name) ? description.calls[name]! : null;
const noCall = ({ description }: DescribedAccount, name: string) =>
  `The description “${description.name}” has no call “${name}”.`;

const textOf = (source: string, filling: Filling): string => {
  const filled = fill(source, filling);
  return filled.ok ? filled.text : '';
};

/** What tokens are asked for with; null for a service that is signed in to otherwise. */
export function tokenAskOf(
  { description, authority }: Pick<DescribedAccount, 'description' | 'authority'>,
  filling: Filling,
): TokenAsk | null {
  const { signIn } = description;
  if (signIn.way !== 'oauth2-client' && signIn.way !== 'oauth2-code') return null;
  return {
    tokenAddress: textOf(signIn.tokenAddress, filling),
    clientId: textOf(signIn.clientId, filling),
    clientSecret: textOf(signIn.clientSecret, filling),
    scope: signIn.scope,
    shows: signIn.shows,
    authority,
  };
}

export const secretsOf = ({ description, values }: DescribedAccount): string[] =>
  description.asks.filter(({ secret }) => secret).flatMap(({ key }) => (values[key] ? [values[key]] : []));

function readOf(
  call: Call,
  data: Data,
  reply: Reply,
  given: Record<string, unknown>,
): Pick<Called, 'values' | 'items' | 'besides' | 'next'> {
  if (!data.ok) return { values: {}, items: [], besides: {}, next: null };
  const list = call.items === '' ? null : valuesAt(call.items, data.value).flat();
  return {
    values: list ? {} : readValues(call.reads, data.value),
    items: list?.map((item) => ({ ...readValues(call.reads, item), raw: item })) ?? [],
    besides: list ? readValues(call.besides, data.value) : {},
    next: nextPage(call, data.value, reply, given, list?.length ?? 0),
  };
}

function nextPage(
  call: Call,
  value: unknown,
  reply: Reply,
  given: Record<string, unknown>,
  items: number,
): Called['next'] {
  const { paging } = call;
  switch (paging.way) {
    case 'none':
      return null;
    case 'link': {
      const link = nextLink(reply.headers.link ?? '');
      return link === null || link === given.link ? null : { link };
    }
    case 'cursor': {
      const cursor = textAt(paging.path, value);
      // The same again would go round for ever.
      return cursor === '' || cursor === given.cursor ? null : { cursor };
    }
    case 'page':
      return items === 0 ? null : { page: String(Number(given.page ?? paging.first) + 1) };
    case 'since': {
      const all = valuesAt(paging.path, value).map(String);
      const since = all.reduce((most, one) => (later(one, most) ? one : most), String(given.since ?? ''));
      return since === String(given.since ?? '') ? null : { since };
    }
  }
}

/** Where the Link header says the next page is (RFC 8288); null when it does not. */
function nextLink(header: string): string | null {
  try {
    return LinkHeader.parse(header).rel('next')[0]?.uri ?? null;
  } catch {
    return null;
  }
}

/** Whether one mark is further on than another: as numbers where both are, else by the letter, as times in ISO 8601 are ordered. */
const later = (one: string, than: string): boolean =>
  than === '' || (/^\d+$/.test(one) && /^\d+$/.test(than) ? BigInt(one) > BigInt(than) : one > than);

function shownReply({ status, headers, bytes }: Reply, secrets: readonly string[]): Shown['reply'] {
  const hide = hiding(secrets);
  return {
    status,
    headers: Object.fromEntries(
      Object.entries(headers)
        .filter(([name]) => name !== 'set-cookie')
        .map(([name, value]) => [name, hide(value)]),
    ),
    body: hide(Buffer.from(bytes.subarray(0, SHOWN)).toString('utf8')),
  };
}
