import { v7 as uuidv7 } from 'uuid';
import { consentSaidBy, consentScope } from '../core/source/lead-card.ts';
import { draftLead } from '../core/source/lead-draft.ts';
import type { SourceEntry } from '../core/source/source-kind.ts';
import { phoneZone } from '../core/time/phone-zone.ts';
import { heldFor } from '../core/time/quiet-hours.ts';
import { allConsents, startContext } from '../core/workflow/run-context.ts';
import { HotStore } from '../db/hot/store.ts';
import type { KnownSource } from '../engine/settings-cache.ts';
import type { Runtime } from '../runtime.ts';
import { sourceKinds } from '../sources/registry.ts';
import { rehearse } from '../steps/rehearse.ts';
import type { DemoMade } from './build.ts';
import { adBy } from './campaigns.ts';
import { weeksBefore } from './campaigns-past.ts';
import { HOLDER, iso, play } from './history-play.ts';
import { replies } from './history-replies.ts';
import { otherPasts, type Told } from './other-pasts.ts';
import { type Invented, inventPeople } from './people.ts';
import { seededRandom } from './seeded-random.ts';
import { entryOf } from './trial-entry.ts';

const DAYS = 14;
/** Share of a day's leads by hour: few at night, most after school and in the evening. */
const BY_HOUR = [1, 1, 1, 0, 0, 1, 2, 4, 7, 9, 7, 6, 8, 7, 5, 6, 8, 11, 13, 12, 9, 6, 4, 2];

/**
 * Two weeks of leads up to now, by the same statements, readings and plans as the real thing; only the outside world's
 * answers are made up. The same seed gives the same people and the same story, dated back from today.
 */
export async function writeHistory(runtime: Runtime, made: DemoMade, seed: number): Promise<void> {
  const random = seededRandom(seed);
  const store = new HotStore(runtime.pool);
  const [trial, openDay] = await Promise.all([
    runtime.settingsCache.sourceById(made.trialSource),
    runtime.settingsCache.sourceById(made.openDaySource),
  ]);
  const people = inventPeople(random, 700);
  const now = runtime.now();
  const told: Told[] = [];
  for (let back = DAYS; back >= 0; back--) {
    const dayStart = now - back * 86_400_000 - (now % 86_400_000);
    const weekend = [0, 6].includes(new Date(dayStart).getUTCDay());
    const total = BY_HOUR.reduce((a, b) => a + b, 0);
    for (let hour = 0; hour < 24; hour++) {
      const expected = (BY_HOUR[hour]! / total) * (weekend ? 42 : 30) * (0.9 + 0.02 * (DAYS - back));
      const count = Math.floor(expected) + (random() < expected % 1 ? 1 : 0);
      for (let i = 0; i < count; i++) {
        const at = dayStart + hour * 3_600_000 + Math.floor(random() * 3_600_000);
        if (at > now - 60_000) continue;
        // Some come in again: people who filled the form before.
        const person =
          told.length > 30 && random() < 0.05 ? told[Math.floor(random() * told.length)]!.person : people.next();
        const source = weekend && hour > 9 && hour < 17 && random() < 0.5 ? openDay! : trial!;
        told.push({
          source,
          at,
          person,
          ...(source === trial ? adEntry(person, random) : { sent: signIn(person, random) }),
        });
      }
    }
  }
  // The newest few, whatever the hour is now, so that Today has something to show at any time of day.
  for (let i = 12; i >= 1; i--) {
    const person = people.next();
    const at = now - i * 7 * 60_000 - Math.floor(random() * 120_000);
    const landline = i === 5;
    told.push(
      landline
        ? { source: openDay!, at, person, sent: signIn(person, random, true) }
        : { source: trial!, at, person, ...adEntry(person, random) },
    );
  }
  const byName = await sourcesByName(runtime, made.actor.businessId);
  told.push(...otherPasts(byName, [...told], () => people.next(), { now, days: DAYS, random }));
  told.push(...weeksBefore(byName, trial!, () => people.byEmailOnly(), { now, days: DAYS, random }));
  told.sort((a, b) => a.at - b.at);
  for (const one of told) await tellOne(runtime, store, one, random);
  await replies(runtime, made, random);
  await trouble(runtime, store, openDay!, now);
  await runtime.pool.query(
    `with old as (update needs_you set settled_at = created_at + interval '2 hours', settled_by_id = $2 where business_id = $1 and run_id is not null
       and id not in (select id from needs_you where business_id = $1 and run_id is not null order by created_at desc limit 2) returning run_id)
     update run set state = 'handled' where state = 'needs_you' and id in (select run_id from old)`,
    [made.actor.businessId, made.actor.personId],
  );
}

function adEntry(person: Invented, random: () => number): Pick<Told, 'sent' | 'campaign'> {
  const shout = random() < 0.15;
  const agrees = random() < 0.94;
  const { campaign, ad, adSet } = adBy(random());
  return {
    campaign,
    sent: entryOf(person, { campaign: campaign.name, ad, adSet }, { shout, agrees, n: Math.floor(random() * 1e9) }),
  };
}

function signIn(
  person: Invented,
  random: () => number,
  landline = random() < 0.12,
): { body: string; contentType: string } {
  const form = new URLSearchParams({
    name: `${person.first} ${person.last}`,
    email: person.email,
    contact_number: landline ? `0117 496 0${person.phone.slice(-3)}` : person.phone,
    wants: person.instrument,
    agrees_to_texts: landline || random() < 0.85 ? 'yes' : 'no',
  });
  return { contentType: 'application/x-www-form-urlencoded', body: form.toString() };
}

export async function tellOne(
  runtime: Runtime,
  store: HotStore,
  { source, sent: { body, contentType }, at, person, read, ticked }: Told,
  random: () => number,
): Promise<void> {
  const kind = sourceKinds.get(source.kind)!;
  const bytes = Buffer.from(body);
  const reading = read
    ? { ok: true as const, entries: [read] }
    : await kind.read({ headers: {}, contentType, body: bytes }, source.settings);
  if (!reading.ok) throw new Error(`the demo's own entry is not understood: ${reading.problem}`);
  const entry: SourceEntry = reading.entries[0]!;
  const draft = draftLead(entry.fields, source.card, source.business.country);
  const accepted = await store.accept({
    arrival_id: uuidv7({ msecs: at }),
    business_id: source.business.id,
    source_id: source.id,
    external_id: entry.externalId,
    received_at: iso(at),
    headers: { 'content-type': contentType },
    body: bytes.toString('base64'),
    fields: entry.fields,
    where_from: entry.whereFrom,
    state: 'read',
    problem: null,
    person: draft.person,
    identities: draft.identities,
    answers: draft.answers,
    consent: draft.consent
      ? {
          ...draft.consent,
          ...consentScope(source.card),
          how: `Asked by ${source.name}`,
          version: '',
          address: '',
          said_by: consentSaidBy(source.card, kind.byColleagues === true),
        }
      : ticked === undefined
        ? null
        : {
            ...{ state: 'given' as const, wording: ticked, purpose: 'service' as const },
            ...{ channels: ['chat' as const, 'email' as const], how: 'Ticked in the first contact in chat' },
            ...{ version: '', address: '', said_by: 'themselves' as const },
          },
    brings: kind.brings,
    asks_whose: kind.brings === 'people',
    means: entry.means ?? null,
    again: false,
    workflows: null,
    came_at: iso(at),
    new_lead_id: uuidv7({ msecs: at }),
    touch_id: uuidv7({ msecs: at }),
    run_id: uuidv7({ msecs: at }),
    lease_by: HOLDER,
    lease_seconds: 3600,
    needs_you: null,
  });
  const { catalogue, accounts: _ } = await runtime.settingsCache.provisionsOf(source.business.id);
  for (const started of accepted.runs ?? []) {
    const version = await runtime.settingsCache.version(started.version_id);
    if (!version || !accepted.known) continue;
    const context = startContext(draft, accepted.known, {
      where: entry.whereFrom,
      business: source.business,
      source: { name: source.name },
      consent: allConsents(accepted.consent),
      marketing: allConsents(accepted.marketing),
      // Who comes in by writing has just written.
      ...(source.kind === 'chat-message' ? { lastChatAt: at } : {}),
    });
    const progress = play(
      version.definition,
      started.run_id,
      source,
      accepted.lead_id!,
      at,
      random,
      rehearse(version.definition, context, catalogue, {
        now: at,
        happens: false,
        zoneOf: phoneZone,
        heldFor,
        justCameIn: true,
      }).moments[0]!.steps.filter((step) => step.taken),
      {
        text: catalogue.text!.connectionId,
        email: catalogue.email!.connectionId,
        chat: catalogue.chat!.connectionId,
      },
      person,
    );
    await store.write(progress);
  }
}

export async function sourcesByName(runtime: Runtime, businessId: string): Promise<(name: string) => KnownSource> {
  const { rows } = await runtime.pool.query<{ id: string; name: string }>(
    'select id, name from source where business_id = $1',
    [businessId],
  );
  const found = new Map<string, KnownSource>();
  for (const { id, name } of rows) {
    const source = await runtime.settingsCache.sourceById(id);
    if (source) found.set(name, source);
  }
  return (name) => {
    const source = found.get(name);
    if (!source) throw new Error(`the demo has no source “${name}”`);
    return source;
  };
}

/** One thing that was not understood, so that the pile shows what it is for. */
async function trouble(runtime: Runtime, store: HotStore, source: KnownSource, now: number): Promise<void> {
  const body = Buffer.from('{"name": "Ayla Venn", "email": "ayla.venn@example.com", ');
  const problem = 'The body is not valid JSON: it breaks off at character 57.';
  await store.accept({
    arrival_id: uuidv7(),
    business_id: source.business.id,
    source_id: source.id,
    external_id: null,
    received_at: iso(now - 52 * 60_000),
    headers: { 'content-type': 'application/json' },
    body: body.toString('base64'),
    fields: [],
    where_from: {},
    state: 'refused',
    brings: 'people',
    asks_whose: true,
    means: null,
    again: false,
    workflows: null,
    came_at: null,
    problem,
    person: { first_name: '', last_name: '', email: '', phone: '' },
    identities: [],
    answers: {},
    consent: null,
    new_lead_id: uuidv7(),
    touch_id: uuidv7(),
    run_id: uuidv7(),
    lease_by: HOLDER,
    lease_seconds: 1,
    needs_you: {
      id: uuidv7(),
      subject: `source:${source.id}:not-json`,
      title: 'Arrival not understood',
      detail: `${source.name}: ${problem} What was sent is kept.`,
    },
  });
  runtime.settingsCache.forget();
}
