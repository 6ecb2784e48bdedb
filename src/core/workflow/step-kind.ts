import type { z } from 'zod';
import type { Place } from './definition.ts';
import type { Finding } from './finding.ts';
import type { Plan } from './plan.ts';
import type { RunContext } from './run-context.ts';

/** Who can send and be told, as a step refers to them: by id. */
export interface SendingDesk {
  text: { connectionId: string; from: string } | null;
  email: { connectionId: string; fromName: string; fromAddress: string } | null;
  colleagues: { id: string; name: string; email: string }[];
}

export interface PlanInput {
  context: RunContext;
  desk: SendingDesk;
}

export interface CheckInput {
  desk: SendingDesk;
  /** The sample lead's context; null when no sample has been caught yet. */
  sample: RunContext | null;
  /** Whether any source of this workflow asks for consent. */
  consentAsked: boolean;
}

/** The pure part of a kind of step. */
export interface StepKind<Settings = unknown> {
  kind: string;
  /** In the menu: "Text the lead". */
  label: string;
  icon: 'sparkles' | 'message-square-text' | 'mail' | 'bell-ring';
  places: Place[];
  settings: z.ZodType<Settings>;
  blank(): Settings;
  /** The card's heading and its line below, from the settings. */
  card(settings: Settings, desk: SendingDesk): { title: string; line: string };
  /** What would go wrong, without the template checks that every kind shares. */
  check(settings: Settings, input: CheckInput): Omit<Finding, 'place'>[];
  /** Names of the settings that hold templates. */
  templates(settings: Settings): { field: string; source: string }[];
  plan(settings: Settings, input: PlanInput): Plan;
}
