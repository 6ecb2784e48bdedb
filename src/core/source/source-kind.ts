import type { z } from 'zod';
import type { Hears } from '../described/description.ts';
import type { DescribedKind } from '../described/works.ts';
import type { Field } from '../fields/field.ts';
import type { WhereFrom } from './where-from.ts';

/** An incoming item exactly as received. Header names in lower case. */
export interface RawArrival {
  headers: Record<string, string>;
  contentType: string;
  body: Uint8Array;
}

/** What a kind of source understood of one item. */
export interface SourceEntry {
  /** The sender's own id for this item; a repeat of it is the same item. */
  externalId: string | null;
  fields: Field[];
  whereFrom: WhereFrom;
  /** Why a well-formed item is kept out and starts nothing: a bounce, an event nobody asked for. */
  aside?: string;
  /**
   * When the person themselves did it, ISO 8601, as the sender says; null where it was not their doing. Left out, it is the moment it came in for what
   * is pushed, and not known for what is fetched.
   */
  doneAt?: string | null;
  /** What it means for workflows that end when somebody books or buys. */
  means?: 'booked' | 'bought';
  /** The item's own part of a body that held several. */
  part?: Uint8Array;
  /** What proves a consent, beyond its wording: which version of it stood there, and the address it was given from. */
  consentProof?: { version: string; address: string };
}

export interface SourceProblem {
  ok: false;
  code: string;
  problem: string;
}
export type SourceReading = { ok: true; entries: SourceEntry[] } | SourceProblem;

/** How a sender proves itself: Standard Webhooks headers, or as the description of its service says. */
export type SignedBy = { way: 'nobody' } | { way: 'standard-webhooks' } | { way: 'described'; hears: Hears };

/** The pure part of a kind of lead source. */
export interface SourceKind<Settings = unknown> {
  kind: string;
  /** As the coordinator reads it: "Ad form". */
  label: string;
  /** One sentence for the choice of a kind. */
  about: string;
  icon: string;
  settings: z.ZodType<Settings>;
  /** News, like a podcast episode, has no person: its runs text nobody, and nobody is recognised by it. */
  brings: 'people' | 'news';
  /** How arrivals come in: pushed to our web address, by mail, through our own page, as a file, only fetched, from
   * within Pine Bell, or told by a connected service where it tells us everything. */
  comesBy: 'hook' | 'mail' | 'page' | 'file' | 'fetched' | 'inside' | 'reported';
  /** Each item is something that happened and counts by itself, like an order, and not only somebody who is known by now. */
  eachCounts?: true;
  /** Its rows are typed or read in by somebody else than the people in them: what they say of a consent is reported. */
  byColleagues?: true;
  /** Names of the settings the coordinator may change later; the rest was agreed with the outside service. */
  changeable: readonly (keyof Settings & string)[];
  /** Brought in once and then done: it never listens. */
  once?: true;
  /** What items are written in when nobody says so, as with what is fetched. */
  contentType?: string;
  /** Looks over settings that are being changed: what depends on what was there before is settled here. `now` is ISO 8601. */
  settle?(before: Settings, after: Settings, now: string): Settings;
  /** The kind of service whose description says what is sent and how it is signed; left out where we say so ourselves. */
  describedAs?: Exclude<DescribedKind, 'service'>;
  /** `hears` is what the description of the service says of what it tells us, where it says something else than the one that ships. */
  signedBy(settings: Settings, hears?: Hears | null): SignedBy;
  read(raw: RawArrival, settings: Settings, hears?: Hears | null): SourceReading | Promise<SourceReading>;
}
