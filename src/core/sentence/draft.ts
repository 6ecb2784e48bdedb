import { type Condition, isBlank } from '../condition/condition.ts';
import { ANY_REPLY, type At } from '../workflow/at.ts';
import {
  blankDefinition,
  blankMoment,
  type Definition,
  IF_FAILS,
  type Moment,
  type Place,
  type Step,
} from '../workflow/definition.ts';

/** Which words made what. */
export interface Mark {
  from: number;
  to: number;
  made: 'source' | 'moment' | 'step' | 'condition' | 'rule';
  /** Of a step or moment, its id. */
  id: string;
}

/** A step as a sentence gives it: what it sets beyond what its kind begins with. */
export interface Doing {
  kind: string;
  place: Place;
  settings: Record<string, unknown>;
  /** By email when a text is refused, and the other way round. */
  instead?: boolean;
}

const EVENT_DEFAULT = { amount: 2, unit: 'days' } as const;
export const ofEvent = (more: Partial<Extract<At, { kind: 'event' }>>): At => ({
  ...ANY_REPLY,
  within: { ...EVENT_DEFAULT },
  ...more,
});

/** A run sheet as it is written from a sentence, clause by clause. */
export class Draft {
  readonly sheet: Definition = blankDefinition('m1');
  readonly marks: Mark[] = [];
  /** What holds for what is said next, to the end of the sentence. */
  guard: Condition | null = null;
  /** Of a moment that waits: what is said next happens when it did, when it did not, or both ways. */
  private side: 'yes' | 'no' | null = null;
  private steps = 0;

  get moment(): Moment {
    return this.sheet.moments.at(-1)!;
  }
  get empty(): boolean {
    return isEmpty(this.moment);
  }

  /** A moment begins. One that only waited, and at which nothing was to be done yet, becomes this one. */
  begin(at: At, side: 'yes' | 'no' | null = null): string {
    this.guard = null;
    const waits = this.sheet.moments.length > 1 && this.empty;
    // "If they have not replied two days later": the time says how long is waited for what was just said.
    if (waits && this.moment.at.kind === 'event' && at.kind === 'later') {
      this.moment.at.within = at.span;
      return this.moment.id;
    }
    this.side = side;
    if (waits) this.moment.at = at;
    else this.sheet.moments.push(blankMoment(`m${this.sheet.moments.length + 1}`, at));
    return this.moment.id;
  }

  /** What follows happens only on one side of what the moment waited for; a wait becomes a wait for a reply. */
  take(side: 'yes' | 'no' | null): string {
    this.guard = null;
    if (side !== null && this.moment.at.kind !== 'event') {
      const within = this.moment.at.kind === 'later' && this.empty ? this.moment.at.span : { ...EVENT_DEFAULT };
      return this.begin(ofEvent({ within }), side);
    }
    this.side = side;
    return this.moment.id;
  }

  add({ kind, place, settings, instead }: Doing, blank: Record<string, unknown>, onlyIf: Condition | null): string {
    const id = `${kind}-${++this.steps}`;
    const guards = [this.guard, onlyIf].filter((one): one is Condition => one !== null && !isBlank(one));
    const step: Step = {
      ...{ id, kind, on: true, note: '', each: '' },
      onlyIf: guards.length > 1 ? { all: guards } : (guards[0] ?? null),
      ifFails: instead ? { ...IF_FAILS, after: 'other_channel' } : IF_FAILS,
      settings: { ...blank, ...settings },
    };
    if (place === 'first') this.moment.first.push(step);
    else this.lanes()[place].push(step);
    return id;
  }

  private lanes(): Moment['lanes'] {
    const { moment, side } = this;
    if (side === null || moment.at.kind !== 'event') return moment.lanes;
    const known = moment.cases.find((one) => one.id === `${moment.id}-${side}`);
    if (known) return known.lanes;
    const when: Condition = { field: 'happened.it', test: 'is', value: side, to: '', exact: false };
    const lanes = { lead: [], record: [], team: [] };
    moment.cases.push({ id: `${moment.id}-${side}`, name: nameOf(moment.at.event === 'reply', side), when, lanes });
    return lanes;
  }
}

const nameOf = (reply: boolean, side: 'yes' | 'no'): string =>
  reply ? (side === 'yes' ? 'They replied' : 'No reply yet') : side === 'yes' ? 'It happened' : 'It did not happen';

const isEmpty = ({ first, cases, lanes }: Moment): boolean =>
  first.length === 0 && cases.length === 0 && lanes.lead.length + lanes.record.length + lanes.team.length === 0;
