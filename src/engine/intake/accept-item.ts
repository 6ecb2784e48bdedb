import { v7 as uuidv7 } from 'uuid';
import { storableText } from '../../core/fields/field.ts';
import { consentSaidBy, consentScope } from '../../core/source/lead-card.ts';
import type { LeadDraft } from '../../core/source/lead-draft.ts';
import type { RawArrival, SourceEntry, SourceKind } from '../../core/source/source-kind.ts';
import type { AcceptItem } from '../../db/hot/rows.ts';
import { LEASE_SECONDS } from '../leases.ts';
import type { KnownSource } from '../settings-cache.ts';
import { blankItem, NOBODY } from './blank-item.ts';

/** When it is taken in (epoch milliseconds), and by which process: its runs are that process's first. */
export interface Taking {
  now: number;
  holder: string;
}

const blank = ({ now, holder }: Taking, source: KnownSource, raw: RawArrival): AcceptItem => ({
  ...blankItem({ businessId: source.business.id, sourceId: source.id, now }),
  headers: raw.headers,
  body: Buffer.from(raw.body).toString('base64'),
  lease_by: holder,
  lease_seconds: LEASE_SECONDS,
});

/** One of the people, or pieces of news, that stand in a raw arrival. */
export function readItem(
  took: Taking,
  source: KnownSource,
  raw: RawArrival,
  kind: SourceKind,
  entry: SourceEntry,
  draft: LeadDraft,
): AcceptItem {
  const state = entry.aside !== undefined ? 'aside' : source.state === 'live' ? 'read' : 'held';
  const news = kind.brings === 'news';
  return {
    ...blank(took, source, entry.part ? { ...raw, body: entry.part } : raw),
    external_id: entry.externalId === null ? null : storableText(entry.externalId).slice(0, 300),
    fields: entry.fields,
    where_from: entry.whereFrom,
    state,
    problem: entry.aside ?? null,
    means: entry.means ?? null,
    came_at:
      kind.byColleagues || news ? null : entry.doneAt === undefined ? new Date(took.now).toISOString() : entry.doneAt,
    brings: kind.brings,
    asks_whose: kind.brings === 'people' && kind.comesBy !== 'reported',
    // News has nobody in it: one stand-in for the source keeps its runs together.
    person: news ? { ...NOBODY, first_name: source.name } : draft.person,
    identities: news ? [{ kind: 'source', value: source.id }] : draft.identities,
    answers: draft.answers,
    consent: draft.consent
      ? {
          ...draft.consent,
          ...consentScope(source.card),
          how:
            source.card.consent.kind === 'asked_elsewhere'
              ? `Asked elsewhere, ${source.card.consent.note}; said by ${source.name} of everybody in it`
              : `Asked by ${source.name}`,
          version: entry.consentProof?.version ?? '',
          address: entry.consentProof?.address ?? '',
          said_by: consentSaidBy(source.card, kind.byColleagues === true),
        }
      : null,
  };
}

/** What could not be understood, kept with why. */
export function refusedItem(
  took: Taking,
  source: KnownSource,
  raw: RawArrival,
  status: 400 | 401 | 422,
  { code, problem }: { code: string; problem: string },
): AcceptItem {
  return {
    ...blank(took, source, raw),
    state: 'refused',
    problem,
    // One entry per source and kind of trouble: a sender that keeps trying does not bury the rest.
    needs_you: {
      id: uuidv7(),
      subject: `source:${source.id}:${code}`,
      title: status === 401 ? 'Arrival with a wrong signature' : 'Arrival not understood',
      detail: `${source.name}: ${problem} What was sent is kept.`,
    },
  };
}
