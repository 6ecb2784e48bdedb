import { createHash, randomBytes } from 'node:crypto';
import { checkAnswers } from '../../core/form/check-answers.ts';
import type { FormPage } from '../../core/form/form-page.ts';
import { deviceOf } from '../../core/source/device.ts';
import { ArrivalRate } from '../../engine/intake/arrival-rate.ts';
import type { Runtime } from '../../runtime.ts';
import { formPage, type Submission } from '../../sources/form-page/definition.ts';

/** Sends of one form from one address in a minute: a family at one table, not a machine. Common practice, no source. */
const MOST_PER_MINUTE = 10;
/** Nobody reads and fills in a page faster than this, in milliseconds. */
const QUICKEST_MS = 1500;
/** How long a page may stand open before it is sent, in milliseconds. */
const LONGEST_MS = 7 * 86_400_000;

export interface OpenPage {
  page: FormPage;
  businessName: string;
  /** Proves when and that we gave the page out; comes back with the answers. */
  ticket: string;
}

const rates = new WeakMap<Runtime, ArrivalRate>();

async function find(runtime: Runtime, key: string) {
  const source = await runtime.settingsCache.sourceByKey(key);
  if (!source || source.kind !== formPage.kind) return null;
  const settings = formPage.settings.parse(source.settings);
  return { source, page: settings.page };
}

/** A form page for a visitor; null when there is none at this address. */
export async function openFormPage(runtime: Runtime, key: string): Promise<OpenPage | null> {
  const found = await find(runtime, key);
  if (!found) return null;
  const ticket = runtime.secrets.seal(`${runtime.now()}:${randomBytes(9).toString('base64url')}`);
  return { page: found.page, businessName: found.source.business.name, ticket };
}

export type Sent =
  | { kind: 'thanks' }
  | { kind: 'problems'; problems: Record<string, string> }
  | { kind: 'busy'; seconds: number }
  | { kind: 'not-stored' };

/** Takes what a visitor sent. What the spam trap catches is thanked like the rest, so that a machine learns nothing from it. */
export async function sendFormPage(
  runtime: Runtime,
  key: string,
  typed: Readonly<Record<string, string>>,
  from: { address: string; agent: string },
): Promise<Sent | null> {
  const found = await find(runtime, key);
  if (!found) return null;
  const { source, page } = found;
  const rate = rates.get(runtime) ?? new ArrivalRate(runtime.now);
  rates.set(runtime, rate);
  const wait = rate.take(`${key} ${from.address}`, MOST_PER_MINUTE);
  if (wait !== null) return { kind: 'busy', seconds: wait };
  const checked = checkAnswers(page, typed, source.business.country);
  const bot = Boolean(typed.website);
  if (!checked.ok && !bot) return { kind: 'problems', problems: checked.problems };
  const trap = bot ? 'a field that people do not see was filled in.' : trapOf(runtime, typed);
  const wording = page.consent.wordings.at(-1);
  const submission: Submission = {
    // The same page sent in again as it was is the same entry; with something else in it, another.
    id: createHash('sha256')
      .update(typed.ticket ?? randomBytes(16))
      .update(JSON.stringify(Object.entries(typed).sort()))
      .digest('hex')
      .slice(0, 40),
    answers: checked.ok
      ? checked.answers
      : Object.fromEntries(
          Object.entries(typed)
            .filter(([name]) => name !== 'ticket')
            .slice(0, 60),
        ),
    consent:
      page.consent.asked && wording
        ? { given: typed.consent === 'true', wording: wording.text, version: wording.version }
        : null,
    visit: {
      ...{ address: (typed.visit ?? '').slice(0, 2000), referrer: (typed.referrer ?? '').slice(0, 2000) },
      ...(from.agent ? { device: deviceOf(from.agent) } : {}),
    },
    from: from.address,
    trap,
  };
  const body = Buffer.from(JSON.stringify(submission), 'utf8');
  const reply = await runtime.intake.receive(key, { headers: {}, contentType: 'application/json', body }, 'page');
  if (reply.status === 202) return { kind: 'thanks' };
  return reply.status === 429 ? { kind: 'busy', seconds: reply.retryAfter ?? 60 } : { kind: 'not-stored' };
}

/** What gives a machine away besides: the page came back too soon, or without its ticket. */
function trapOf(runtime: Runtime, typed: Readonly<Record<string, string>>): string | null {
  let givenOut: number;
  try {
    givenOut = Number(runtime.secrets.open(typed.ticket ?? '').split(':')[0]);
  } catch {
    return 'it was sent without the page having been opened.';
  }
  const age = runtime.now() - givenOut;
  if (age < QUICKEST_MS) return `it was filled in within ${(age / 1000).toFixed(1)} seconds.`;
  return age > LONGEST_MS ? 'the page had been opened more than a week before.' : null;
}
