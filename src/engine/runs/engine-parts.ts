import type { FactAsked } from '../../core/condition/evaluate.ts';
import type { HotStore } from '../../db/hot/store.ts';
import type { Outside } from '../../steps/performers.ts';
import type { StepPerformer } from '../../steps/step-performer.ts';
import type { DeliveryParts } from '../delivery/make-delivery.ts';
import type { TextAllowance } from '../delivery/text-allowance.ts';
import type { Leases } from '../leases.ts';
import type { ListMembership } from '../lists/join-list.ts';
import type { Later } from './lanes-at-work.ts';

/** What taking a run through its sheet needs. */
export interface EngineParts extends DeliveryParts {
  store: HotStore;
  leases: Leases;
  outside: Outside;
  /** What each kind of step does in our own database or outside, beyond messages. */
  performers: ReadonlyMap<string, StepPerformer>;
  /** Answers what only the database or a list knows. */
  fact: (businessId: string, asked: FactAsked) => Promise<boolean>;
  /** What a business may still text today. */
  texts: Pick<TextAllowance, 'take'>;
  /** The way onto lists. */
  membership: Pick<ListMembership, 'join'>;
  now: () => number;
  /** How a wait too short to leave the run for goes by: with the same clock as `now`. */
  later: Later;
  random: () => number;
}
