import type { z } from 'zod';
import type { Field } from '../fields/field.ts';
import type { WhereFrom } from './where-from.ts';

/** An incoming item exactly as received. Header names in lower case. */
export interface RawArrival {
  headers: Record<string, string>;
  contentType: string;
  body: Uint8Array;
}

/** What a kind of source understood of a raw arrival. */
export interface SourceEntry {
  /** The sender's own id for this item; a repeat of it is the same item. */
  externalId: string | null;
  fields: Field[];
  whereFrom: WhereFrom;
}

export type SourceReading = { ok: true; entry: SourceEntry } | { ok: false; code: string; problem: string };

/** The pure part of a kind of lead source. */
export interface SourceKind<Settings = unknown> {
  kind: string;
  /** As the coordinator reads it: "Ad form". */
  label: string;
  /** One sentence for the choice of a kind. */
  about: string;
  icon: 'clipboard-list' | 'webhook';
  settings: z.ZodType<Settings>;
  /** Whether a signature is demanded. */
  mustBeSigned(settings: Settings): boolean;
  read(raw: RawArrival, settings: Settings): SourceReading;
}
