import type { SignedBy } from '../core/source/source-kind.ts';
import type { ChoicePage } from './source-module.ts';

export interface FormConnection {
  id: string;
  name: string;
  kind: string;
}

/** What there is to choose from for a kind: at the outside service, or within Pine Bell. */
export type Choices = (ask: {
  connection: string;
  q?: string;
  after?: string | null;
  of?: string;
}) => Promise<ChoicePage>;

/** What the setup form of a kind is given. It runs in the browser and reaches the server only through this. */
export interface SourceFormProps {
  connections: FormConnection[];
  choices: Choices;
  /** Makes the source and goes to its page. Throws what the person should read. */
  create(input: Record<string, unknown>): Promise<void>;
}

/** A source as its own panel on the source page sees it. */
export interface PanelSource {
  id: string;
  kind: string;
  name: string;
  state: 'waiting' | 'live' | 'paused';
  address: string;
  signedBy: SignedBy['way'];
  signedAs: string | null;
  settings: Record<string, unknown>;
  arrivals: number;
}

/** What the panel of a kind is given: what there is to do at this source before and besides its arrivals. */
export interface SourcePanelProps {
  source: PanelSource;
  /** Where practice services are, when there are any. */
  practiceUrl: string | null;
  /** Saves changed settings; throws what the person should read. */
  change(settings: Record<string, unknown>): Promise<void>;
  /** Calls Pine Bell's own API under this source: "file" is /api/sources/ID/file. */
  choices: Choices;
  ask<T>(method: 'GET' | 'POST' | 'PUT', path: string, body?: unknown): Promise<T>;
}
